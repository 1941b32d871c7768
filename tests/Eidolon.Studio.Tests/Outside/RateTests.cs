using Eidolon.Demo;
using Eidolon.Devices;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Storage.Samples;
using Eidolon.Studio.Live;
using Eidolon.Studio.Live.Devices;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit.Abstractions;

namespace Eidolon.Studio.Tests.Outside;

/// <summary>A ring that does not take 120 frames a second: the performer is found live, and the recording has no hole.</summary>
[Collection(nameof(OnTheClock)), Trait(LongRun.Run, LongRun.Whole)]
public sealed class RateTests(ITestOutputHelper output)
{
    [Theory]
    [InlineData(60)]
    [InlineData(100)]
    [InlineData(240)]
    public async Task A_ring_of_another_rate_is_followed_and_recorded_without_a_hole(double rate)
    {
        var folder = Directory.CreateTempSubdirectory("eidolon-rate").FullName;
        await DemoStudio.CopyTo(folder);
        var module = new DemoModule();
        var app = StudioHost.Build(new StudioOptions(folder), module);
        await using (var db = await app.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContextAsync())
        {
            await db.Productions.ExecuteUpdateAsync(p => p.SetProperty(x => x.FrameRate, rate));
        }

        await StudioHost.Prepare(app.Services, _ => { }, module);
        await app.StartAsync();
        try
        {
            await OnTheClock.Again(k => Record(app.Services, rate, k));
        }
        finally
        {
            await app.StopAsync();
            await app.DisposeAsync();
            Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
            Directory.Delete(folder, recursive: true);
        }
    }

    private async Task Record(IServiceProvider services, double rate, int number)
    {
        T Get<T>()
            where T : notnull => services.GetRequiredService<T>();
        await using var db = await Get<IDbContextFactory<EidolonDb>>().CreateDbContextAsync();
        var tobi = await db.Subjects.Where(s => s.Name == "Tobi").Select(s => s.Id).SingleAsync();
        await Get<StandInStage>().Perform("gangplank-hop", "Tobi");
        Get<LiveStage>().Track([tobi], BodyPart.Whole);
        await Asking.Until(() => Get<LiveStage>().View.Bodies.Any(b => b is { Found: true, Seen: > 40 }));
        var recorder = Get<Recorder>();
        recorder.PreRollSeconds = 0.2;
        await recorder.Start(new RecordRequest(2, "HL_096_rate", number, [tobi], string.Empty));
        await Asking.Until(() => recorder.Now() is { State: "Recording" } now && now.Frames > 2 * rate);
        var id = await recorder.Stop();
        var take = await db.Takes.AsNoTracking().SingleAsync(t => t.Id == id);
        Assert.Equal(rate, take.FrameRate);
        var pictures = new SampleStore(db).ReadCentroids(
            db.Streams.AsNoTracking().Single(s => s.TakeId == id && s.Name == StreamNames.Ring),
            RingDescription.Usual.Cameras,
            take.Name
        );
        var empty = Enumerable.Range(0, take.FrameCount).Count(f => Enumerable.Range(0, 12).All(c => pictures.UAt(f, c).Length == 0));
        output.WriteLine($"{rate} Hz: {take.FrameCount} frames, {empty} of them empty");
        // Nothing regular is missing; a busy machine may lose a packet or two.
        Assert.True(empty <= take.FrameCount / 100, $"{empty} of {take.FrameCount} frames are empty");
    }
}
