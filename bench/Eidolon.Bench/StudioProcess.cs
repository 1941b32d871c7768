using System.Diagnostics;
using System.Text.Json;
using System.Text.RegularExpressions;
using Eidolon.Storage;
using Microsoft.AspNetCore.SignalR.Client;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Bench;

/// <summary>A studio in a process of its own, a stand-in ring in another, and a page's connection to it.</summary>
internal sealed class StudioProcess : IAsyncDisposable
{
    private readonly Process _studio;
    private Process? _ring;
    private HubConnection? _page;
    private int[] _performers = [];

    private StudioProcess(Process studio, string address) => (_studio, Address) = (studio, address);

    public string Address { get; }

    public Process Studio => _studio;

    /// <summary>Frames that reached the page.</summary>
    public long Pushed { get; private set; }

    /// <summary>Starts a studio without waiting for it.</summary>
    public static Process Launch(string data, bool demo = false)
    {
        var dll = Path.Combine(AppContext.BaseDirectory, demo ? "Eidolon.Demo.dll" : "Eidolon.Studio.dll");
        var info = new ProcessStartInfo("dotnet", [dll, demo ? "demo" : "serve", "--data", data, "--port", "0"])
        {
            RedirectStandardOutput = true,
        };
        return Process.Start(info)!;
    }

    public static async Task<StudioProcess> Start(string data, bool demo = false)
    {
        var process = Launch(data, demo);
        while (await process.StandardOutput.ReadLineAsync() is { } line)
        {
            if (line.Contains("ready after", StringComparison.Ordinal))
            {
                return new StudioProcess(process, line[line.IndexOf("http", StringComparison.Ordinal)..].Trim());
            }
        }

        throw new InvalidOperationException("the studio did not start");
    }

    /// <summary>Connects as a page does and lets the studio follow the performers.</summary>
    /// <param name="data">The studio's folder.</param>
    public async Task Open(string data, params string[] performers)
    {
        await using (var db = Db(data))
        {
            _performers = [.. db.Subjects.Where(s => performers.Contains(s.Name)).Select(s => s.Id)];
        }

        var token = await Token();
        _page = new HubConnectionBuilder()
            .WithUrl(Address + "/hubs/live", o => o.AccessTokenProvider = () => Task.FromResult<string?>(token))
            .AddMessagePackProtocol()
            .Build();
        _page.On<byte[], byte[], byte[], byte[]>("frame", (_, _, _, _) =>
        {
            Pushed++;
            _ = _page.SendAsync("Seen");
        });
        await _page.StartAsync();
        await _page.InvokeAsync<string>("Track", _performers, "Whole");
    }

    /// <summary>The token that pages are given.</summary>
    private async Task<string> Token()
    {
        using var http = new HttpClient();
        return Regex.Match(await http.GetStringAsync(Address), "name=\"live\" content=\"([^\"]+)\"").Groups[1].Value;
    }

    /// <summary>The stand-in ring plays a scene from a process of its own.</summary>
    public async Task Play(string scene)
    {
        var port = (await Status()).GetProperty("Devices").EnumerateArray().First().GetProperty("Arrives").GetString()!.Split(':')[^1];
        var dll = Path.Combine(AppContext.BaseDirectory, "eidolon-cli.dll");
        _ring = Process.Start(
            new ProcessStartInfo("dotnet", [dll, "stand-in", "ring", "--scenario", scene, "--port", port]) { RedirectStandardOutput = true }
        )!;
    }

    public async Task<JsonElement> Status() =>
        JsonSerializer.SerializeToElement(await _page!.InvokeAsync<Eidolon.Studio.Live.RecorderStatus>("Status"));

    public Task<string> Record(string name, int number) =>
        _page!.InvokeAsync<string>("Record", new Eidolon.Studio.Live.RecordRequest(2, name, number, _performers, "crate-carry"));

    /// <summary>The database of a studio's folder.</summary>
    public static EidolonDb Db(string data) =>
        new(new DbContextOptionsBuilder<EidolonDb>().UseSqlite($"Data Source={Path.Combine(data, "studio.db")}").Options);

    public void Kill() => _studio.Kill(entireProcessTree: true);

    public async ValueTask DisposeAsync()
    {
        _ring?.Kill();
        if (!_studio.HasExited)
        {
            _studio.Kill();
        }

        await _studio.WaitForExitAsync();
        if (_page is not null)
        {
            await _page.DisposeAsync();
        }
    }
}
