using Eidolon.Studio;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Builder;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace Eidolon.Testing;

/// <summary>The studio with the demo production on a port of its own. The demo is made once a test run and copied.</summary>
public sealed class DemoStudio : IAsyncLifetime
{
    private static readonly string Master = Environment.GetEnvironmentVariable("EIDOLON_TEST_DEMO")
        ?? Path.Combine(Path.GetTempPath(), $"eidolon-test-demo-{Environment.ProcessId}");

    public WebApplication App { get; private set; } = null!;

    public string Folder { get; } = Directory.CreateTempSubdirectory("eidolon-studio").FullName;

    public string Address => App.Urls.First();

    public IServiceProvider Services => App.Services;

    public async Task InitializeAsync()
    {
        await MakeMaster();
        foreach (var file in Directory.GetFiles(Master, "studio.db*"))
        {
            File.Copy(file, Path.Combine(Folder, Path.GetFileName(file)), overwrite: true);
        }

        await Start();
    }

    /// <summary>Starts (again) on the same data, as after a crash or a restart.</summary>
    public async Task Start()
    {
        App = StudioHost.Build(new StudioOptions(Folder, true), [], "http://127.0.0.1:0");
        await StudioHost.Prepare(App.Services, _ => { });
        await App.StartAsync();
    }

    public async Task DisposeAsync()
    {
        await App.StopAsync();
        await App.DisposeAsync();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(Folder, recursive: true);
    }

    private static async Task MakeMaster()
    {
        Directory.CreateDirectory(Master);
        // Test projects may run side by side: one makes the demo, the others wait for its lock.
        await using var gate = await Lock(Path.Combine(Master, "lock"));
        if (File.Exists(Path.Combine(Master, "whole")))
        {
            return;
        }

        var app = StudioHost.Build(new StudioOptions(Master, true), [], "http://127.0.0.1:0");
        await StudioHost.Prepare(app.Services, _ => { });
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
