using System.Text.Json.Nodes;
using Eidolon.Core.Markers;
using Eidolon.Core.Optical;
using Eidolon.StandIns.Devices;
using Eidolon.StandIns.People;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Live;
using Eidolon.Studio.Live.Devices;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

/// <summary>Recording from the ring and the other devices, and what is left of it when the studio is killed in the middle.</summary>
public sealed class RecordingTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    private T Get<T>()
        where T : notnull => studio.Services.GetRequiredService<T>();

    private async Task<Recorder> Ready(string scene, params string[] performers)
    {
        await Get<StandInStage>().Perform(scene, performers[0]);
        Get<LiveStage>().Track(performers, BodyPart.Whole);
        await Until(() => Get<LiveStage>().View.Points > 30);
        var recorder = Get<Recorder>();
        recorder.PreRollSeconds = 0.2;
        return recorder;
    }

    [Fact]
    public async Task A_recording_cut_off_keeps_all_but_the_last_half_second()
    {
        var recorder = await Ready("gangplank-hop", "Tobi");
        await recorder.Start(new RecordRequest(2, "HL_090_cut", 1, "Tobi", "gangplank-hop", string.Empty));
        await Until(() => recorder.Now() is { State: "Recording", Frames: > 200 });
        var written = recorder.Now().Frames;
        // No stop: the data are copied away as a crash would leave them, and a second studio opens the copy.
        var copy = Directory.CreateTempSubdirectory("eidolon-crash").FullName;
        foreach (var file in Directory.GetFiles(studio.Folder, "studio.db*"))
        {
            File.Copy(file, Path.Combine(copy, Path.GetFileName(file)));
        }

        await using (var db = new EidolonDb(new DbContextOptionsBuilder<EidolonDb>().UseSqlite($"Data Source={Path.Combine(copy, "studio.db")}").Options))
        {
            await RecordingRecovery.Run(db);
            var take = await db.Takes.SingleAsync(t => t.Name == "HL_090_cut_01");
            Assert.Equal(TakeState.Kept, take.State);
            Assert.True(take.FrameCount >= written - 65 && take.Shortened.Length > 0, $"{take.FrameCount} of {written}");
            var markers = await new SampleStore(db).ReadMarkers(take);
            Assert.True(markers.At(60).ToArray().Count(p => !float.IsNaN(p.X)) > 30);
            // Raw pictures and points end at the same frame.
            Assert.Equal(take.FrameCount, (await new SampleStore(db).ReadCentroids(take, RingPayload.Cameras))!.FrameCount);
        }

        var id = await recorder.Stop();
        await using var own = Get<IDbContextFactory<EidolonDb>>().CreateDbContext();
        var kept = await own.Takes.SingleAsync(t => t.Id == id);
        Assert.True(kept.FrameCount >= written && kept.State == TakeState.Kept && kept.Shortened.Length == 0);
        Assert.Equal(kept.FrameCount, (await new SampleStore(own).ReadMarkers(kept)).FrameCount);
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(copy, recursive: true);
    }

    [Fact]
    public async Task All_devices_record_together_and_the_ring_can_be_reconstructed_again()
    {
        var recorder = await Ready("crate-carry", "Ines", "Tobi");
        await Until(() => Get<DeviceRack>().Status().Count(d => d.Connected) >= 4);
        await recorder.Start(new RecordRequest(2, "HL_091_together", 1, "Ines, Tobi", "crate-carry", string.Empty, "Crate"));
        await Until(() => recorder.Now() is { State: "Recording", Frames: > 300 });
        var id = await recorder.Stop();
        await using var db = Get<IDbContextFactory<EidolonDb>>().CreateDbContext();
        var take = await db.Takes.SingleAsync(t => t.Id == id);
        var devices = JsonNode.Parse(take.Devices)!.AsArray();
        Assert.True(devices.Count >= 4, take.Devices);
        Assert.NotNull(take.CalibrationId);
        foreach (var stream in new[] { "suit", "witness-1", "witness-2" })
        {
            Assert.True(await db.Chunks.Where(c => c.TakeId == id && c.Stream == stream).SumAsync(c => c.FrameCount) > 40, stream);
        }

        var store = new SampleStore(db);
        var live = await store.ReadMarkers(take);
        var pictures = (await store.ReadCentroids(take, RingPayload.Cameras))!;
        Assert.Equal(take.FrameCount, pictures.FrameCount);
        var ring = Core.Formats.Json.CameraRingJson.Read(System.Text.Encoding.UTF8.GetBytes((await db.Calibrations.SingleAsync(c => c.Id == take.CalibrationId)).Cameras), "calibration");
        var (again, _) = TakeReconstructor.Reconstruct(pictures, ring);
        // A stage that is behind leaves frames out of the live points, never out of the pictures: the fullest frame is compared.
        var f = Enumerable.Range(60, take.FrameCount - 60).MaxBy(i => live.At(i).ToArray().Count(MarkerTake.Seen));
        var a = live.At(f).ToArray().Where(MarkerTake.Seen).ToArray();
        var b = again.At(f).ToArray().Where(MarkerTake.Seen).ToArray();
        Assert.True(a.Length > 90 && b.Length > 90, $"{a.Length} live, {b.Length} again");
        Assert.True(a.Count(p => b.Any(q => (p - q).Length() < 0.002f)) > 0.95 * a.Length);
    }

    [Fact]
    public async Task A_pulled_cable_leaves_a_hole_of_the_right_length()
    {
        var recorder = await Ready("gangplank-hop", "Tobi");
        await recorder.Start(new RecordRequest(2, "HL_092_cable", 1, "Tobi", "gangplank-hop", string.Empty));
        await Until(() => recorder.Now() is { State: "Recording", Frames: > 60 });
        var clock = System.Diagnostics.Stopwatch.StartNew();
        Get<StandInStage>().Cut("ring", true);
        await Task.Delay(700);
        Get<StandInStage>().Cut("ring", false);
        var cut = clock.Elapsed.TotalSeconds;
        var before = recorder.Now().Frames;
        await Until(() => recorder.Now().Frames > before + 120);
        var id = await recorder.Stop();
        await using var db = Get<IDbContextFactory<EidolonDb>>().CreateDbContext();
        var take = await db.Takes.SingleAsync(t => t.Id == id);
        var pictures = (await new SampleStore(db).ReadCentroids(take, RingPayload.Cameras))!;
        var empty = Enumerable.Range(0, pictures.FrameCount).Count(f => Enumerable.Range(0, 12).All(c => pictures.UAt(f, c).Length == 0));
        Assert.InRange(empty / 120.0, cut - 0.15, cut + 0.25);
        Assert.Equal(take.FrameCount, pictures.FrameCount);
    }

    [Theory]
    [InlineData("HL 021", "cannot be")]
    [InlineData("HL_030_gangplank-hop", "exists already")]
    public async Task A_bad_slate_is_refused_with_what_to_type(string setUp, string expected)
    {
        var recorder = await Ready("gangplank-hop", "Tobi");
        var e = await Assert.ThrowsAsync<ArgumentException>(() => recorder.Start(new RecordRequest(2, setUp, 1, "Tobi", "gangplank-hop", string.Empty)));
        Assert.Contains(expected, e.Message, StringComparison.Ordinal);
    }

    private static async Task Until(Func<bool> condition)
    {
        for (var end = DateTime.UtcNow.AddSeconds(60); DateTime.UtcNow < end;)
        {
            if (condition())
            {
                return;
            }

            await Task.Delay(50);
        }

        Assert.Fail("the condition was not met");
    }
}
