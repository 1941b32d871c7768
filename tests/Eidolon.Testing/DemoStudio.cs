using Eidolon.Demo;
using Eidolon.Storage;
using Eidolon.Studio;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Builder;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace Eidolon.Testing;

/// <summary>The studio with the demo production on a port of its own. The demo is made once a test run and copied.</summary>
public sealed class DemoStudio : IAsyncLifetime
{
    private static readonly string Master = Environment.GetEnvironmentVariable("EIDOLON_TEST_DEMO")
        ?? Path.Combine(Path.GetTempPath(), $"eidolon-test-demo-{Environment.ProcessId}");

    private static readonly DemoModule Module = new();

    public WebApplication App { get; private set; } = null!;

    public string Folder { get; } = Directory.CreateTempSubdirectory("eidolon-studio").FullName;

    public string Address => App.Urls.First();

    public IServiceProvider Services => App.Services;

    public async Task InitializeAsync()
    {
        await CopyTo(Folder);
        await Start();
    }

    /// <summary>Copies the demo production into a folder, to be opened there.</summary>
    public static async Task CopyTo(string folder)
    {
        await MakeMaster();
        Copy(new DirectoryInfo(Master), folder);
    }

    /// <summary>Ids of subjects of the demo by their names, in this order.</summary>
    public int[] Ids(params string[] names)
    {
        using var db = Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();
        return [.. names.Select(n => db.Subjects.Single(s => s.Name == n).Id)];
    }

    /// <summary>Starts (again) on the same data, as after a crash or a restart.</summary>
    public async Task Start()
    {
        App = StudioHost.Build(new StudioOptions(Folder), Module);
        await StudioHost.Prepare(App.Services, _ => { }, Module);
        await App.StartAsync();
    }

    public async Task DisposeAsync()
    {
        await App.StopAsync();
        await App.DisposeAsync();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(Folder, recursive: true);
    }

    /// <summary>Database, files and results; not the lock, the log and the jobs.</summary>
    private static void Copy(DirectoryInfo from, string to)
    {
        Directory.CreateDirectory(to);
        foreach (
            var file in from.GetFiles()
                .Where(f => f.Name is not ("lock" or "gate" or "whole") && !f.Name.StartsWith("jobs", StringComparison.Ordinal))
        )
        {
            file.CopyTo(Path.Combine(to, file.Name), overwrite: true);
        }

        foreach (var folder in from.GetDirectories().Where(d => d.Name != "log"))
        {
            Copy(folder, Path.Combine(to, folder.Name));
        }
    }

    private static async Task MakeMaster()
    {
        Directory.CreateDirectory(Master);
        // Test projects may run side by side: one makes the demo, the others wait for its lock.
        await using var gate = await Lock(Path.Combine(Master, "gate"));
        if (File.Exists(Path.Combine(Master, "whole")))
        {
            return;
        }

        var app = StudioHost.Build(new StudioOptions(Master), Module);
        await StudioHost.Prepare(app.Services, _ => { }, Module);
        await app.DisposeAsync();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        await File.WriteAllTextAsync(Path.Combine(Master, "whole"), "yes");
    }

    private static async Task<FileStream> Lock(string path)
    {
        while (true)
        {
            try
            {
                return new FileStream(path, FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.None);
            }
            catch (IOException)
            {
                await Task.Delay(200);
            }
        }
    }
}
