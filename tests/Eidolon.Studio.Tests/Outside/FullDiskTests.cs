using System.Net;
using Eidolon.Core;
using Eidolon.Demo;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Live;
using Eidolon.Studio.Live.Devices;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.AspNetCore.Builder;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests.Outside;

/// <summary>A disk that gets full: pages say so, nothing large is begun, a recording ends with what is kept, and it all goes on when there is room.</summary>
[Collection(nameof(OnTheClock)), Trait(LongRun.Run, LongRun.Whole)]
public sealed class FullDiskTests
{
    private const long Mega = 1 << 20;

    private static async Task<WebApplication> Open(string folder)
    {
        var module = new DemoModule();
        var options = new StudioOptions(folder) { LowRoom = 64 * Mega, LeastRoom = 16 * Mega };
        var app = StudioHost.Build(options, module);
        await StudioHost.Prepare(app.Services, _ => { }, module);
        await app.StartAsync();
        return app;
    }

    private static async Task<(HttpStatusCode Code, string Text)> Day(HttpClient http, string name)
    {
        var token = await http.Antiforgery();
        var answer = await http.PostAsync(
            "/?handler=Day",
            new FormUrlEncodedContent([KeyValuePair.Create("name", name), KeyValuePair.Create("__RequestVerificationToken", token)])
        );
        return (answer.StatusCode, await answer.Content.ReadAsStringAsync());
    }

    [SmallDiskFact]
    public async Task Everything_says_so_ends_cleanly_and_goes_on_when_there_is_room()
    {
        using var disk = new SmallDisk(320);
        var folder = Path.Combine(disk.Folder, "studio");
        await DemoStudio.CopyTo(folder);
        await using var app = await Open(folder);
        try
        {
            await Fill(disk, app);
        }
        finally
        {
            // A studio that ends writes the last lines of its log.
            disk.Empty();
        }

        await app.StopAsync();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
    }

    private static async Task Fill(SmallDisk disk, WebApplication app)
    {
        using var http = new HttpClient { BaseAddress = new Uri(app.Urls.First()) };
        Assert.DoesNotContain("The disk gets full", await http.GetStringAsync("/"), StringComparison.Ordinal);

        // A recording, and the disk gets full in the middle of it.
        T Get<T>()
            where T : notnull => app.Services.GetRequiredService<T>();
        EidolonDb Db() => Get<IDbContextFactory<EidolonDb>>().CreateDbContext();
        int tobi;
        await using (var db = Db())
        {
            tobi = await db.Subjects.Where(s => s.Name == "Tobi").Select(s => s.Id).SingleAsync();
        }

        await Get<StandInStage>().Perform("gangplank-hop", "Tobi");
        Get<LiveStage>().Track([tobi], BodyPart.Whole);
        await Asking.Until(() => Get<LiveStage>().View.Points > 30 && Get<DeviceRack>().Ring.Meter.Connected);
        var recorder = Get<Recorder>();
        recorder.PreRollSeconds = 0.2;
        await recorder.Start(new RecordRequest(2, "HL_097_full", 1, [tobi], string.Empty));
        await Asking.Until(() => recorder.Now() is { State: "Recording", Frames: > 120 });
        disk.Fill(40 * Mega);
        await Asking.Until(() => http.GetStringAsync("/").Result.Contains("The disk gets full", StringComparison.Ordinal));
        Assert.Equal("Recording", recorder.Now().State);
        disk.Fill(8 * Mega);
        await Asking.Until(() => recorder.Now().State == "Kept");
        await using (var db = Db())
        {
            await Asking.Until(() => db.Takes.AsNoTracking().Single(t => t.Name == "HL_097_full_01").State == TakeState.Kept);
            var take = await db.Takes.AsNoTracking().SingleAsync(t => t.Name == "HL_097_full_01");
            Assert.True(take.FrameCount > 100, $"{take.FrameCount}");
            Assert.Contains("disk is full", take.Shortened, StringComparison.Ordinal);
        }

        Assert.Contains(
            "no room",
            (
                await Assert.ThrowsAsync<RefusedException>(() =>
                    recorder.Start(new RecordRequest(2, "HL_097_full", 2, [tobi], string.Empty))
                )
            ).Message,
            StringComparison.Ordinal
        );

        // Not a byte is left: every page opens, and what cannot be kept says why.
        disk.Fill(0);
        foreach (
            var page in new[]
            {
                "/",
                "/record",
                "/recipes",
                "/keys",
                "/aside",
                "/record/performers",
                "/library/characters",
                "/record/import",
            }
        )
        {
            Assert.Equal(HttpStatusCode.OK, (await http.GetAsync(page)).StatusCode);
        }

        await using (var db = Db())
        {
            foreach (var take in await db.Takes.AsNoTracking().Select(t => t.Id).ToListAsync())
            {
                foreach (var step in new[] { "label", "clean", "solve", "retarget" })
                {
                    Assert.Equal(HttpStatusCode.OK, (await http.GetAsync($"/takes/{take}/{step}")).StatusCode);
                }
            }
        }

        // The database may have room of its own for a few more rows; then what is asked for is refused in words.
        var (code, text) = (HttpStatusCode.OK, string.Empty);
        for (var k = 0; k < 3000 && code == HttpStatusCode.OK; k++)
        {
            (code, text) = await Day(http, $"No room {k} ".PadRight(80, '.'));
        }

        Assert.True(code == HttpStatusCode.InsufficientStorage && text.Contains("disk is full", StringComparison.Ordinal), $"{code}");

        // Room again: everything goes on.
        disk.Empty();
        await Asking.Until(() => !http.GetStringAsync("/").Result.Contains("The disk", StringComparison.Ordinal));
        Assert.Equal(HttpStatusCode.OK, (await Day(http, "Room again")).Code);
        await Asking.Until(() => Get<DeviceRack>().Ring.Meter.Connected);
        await recorder.Start(new RecordRequest(2, "HL_097_full", 3, [tobi], string.Empty));
        await Asking.Until(() => recorder.Now() is { State: "Recording", Frames: > 60 });
        Assert.NotEqual(0, await recorder.Stop());
    }
}
