using Eidolon.Studio;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Builder;

namespace Eidolon.Testing;

/// <summary>A new studio of one's own, as `serve` starts it: nobody, nothing, no stand-ins.</summary>
public sealed class EmptyStudio : IAsyncDisposable
{
    private readonly string _folder;
    private readonly bool _own;

    private EmptyStudio(WebApplication app, string folder, bool own) => (App, _folder, _own) = (app, folder, own);

    public WebApplication App { get; }

    public string Address => App.Urls.First();

    /// <param name="options">How it is started; in a folder of its own when null.</param>
    public static async Task<EmptyStudio> Start(StudioOptions? options = null)
    {
        var folder = options?.DataFolder ?? Directory.CreateTempSubdirectory("eidolon-empty").FullName;
        var app = StudioHost.Build(options ?? new StudioOptions(folder));
        await StudioHost.Prepare(app.Services, _ => { });
        await app.StartAsync();
        return new EmptyStudio(app, folder, options is null);
    }

    public async ValueTask DisposeAsync()
    {
        await App.StopAsync();
        await App.DisposeAsync();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        if (_own)
        {
            Directory.Delete(_folder, recursive: true);
        }
    }
}
