using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Markers;
using Eidolon.Core.Optical;
using Eidolon.Demo;
using Eidolon.Devices;
using Eidolon.StandIns.Devices;
using Eidolon.StandIns.People;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Storage.Samples;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Live;
using Eidolon.Studio.Live.Devices;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

/// <summary>Recording from the ring and the other devices, and what is left of it when the studio is killed in the middle.</summary>
[Collection(nameof(OnTheClock)), Trait(LongRun.Run, LongRun.Whole)]
public sealed class RecordingTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    private T Get<T>()
        where T : notnull => studio.Services.GetRequiredService<T>();

    private async Task<Recorder> Ready(string scene, params string[] performers)
    {
        await Get<StandInStage>().Perform(scene, performers[0]);
        Get<LiveStage>().Track(studio.Ids(performers), BodyPart.Whole);
        await Asking.Until(() => Get<LiveStage>().View.Points > 30);
        var recorder = Get<Recorder>();
        recorder.PreRollSeconds = 0.2;
        return recorder;
    }

    [Fact]
    public async Task A_recording_cut_off_keeps_all_but_the_last_half_second()
    {
        var recorder = await Ready("gangplank-hop", "Tobi");
        await recorder.Start(new RecordRequest(2, "HL_090_cut", 1, studio.Ids("Tobi"), string.Empty));
        await Asking.Until(() => recorder.Now() is { State: "Recording", Frames: > 200 });
        var written = recorder.Now().Frames;
        // No stop: the data are copied away as a crash would leave them, and a second studio opens the copy.
        var copy = Directory.CreateTempSubdirectory("eidolon-crash").FullName;
        foreach (var file in Directory.GetFiles(studio.Folder, "studio.db*"))
        {
            File.Copy(file, Path.Combine(copy, Path.GetFileName(file)));
        }

        await using (
            var db = new EidolonDb(
                new DbContextOptionsBuilder<EidolonDb>().UseSqlite($"Data Source={Path.Combine(copy, "studio.db")}").Options
            )
        )
        {
            await RecordingRecovery.Run(db);
            var take = await db.Takes.SingleAsync(t => t.Name == "HL_090_cut_01");
            Assert.Equal(TakeState.Kept, take.State);
            Assert.True(take.FrameCount >= written - 65 && take.Shortened.Length > 0, $"{take.FrameCount} of {written}");
            var markers = Markers(db, take);
            Assert.True(markers.At(60).ToArray().Count(p => !float.IsNaN(p.X)) > 30);
            // Raw pictures and points end at the same frame.
            Assert.Equal(take.FrameCount, Pictures(db, take).FrameCount);
        }

        var id = await recorder.Stop();
        await using var own = Get<IDbContextFactory<EidolonDb>>().CreateDbContext();
        var kept = await own.Takes.SingleAsync(t => t.Id == id);
        Assert.True(kept.FrameCount >= written && kept.State == TakeState.Kept && kept.Shortened.Length == 0);
        Assert.Equal(kept.FrameCount, Markers(own, kept).FrameCount);
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(copy, recursive: true);
    }

    [Fact]
    public async Task All_devices_record_together_and_the_ring_can_be_reconstructed_again()
    {
        var recorder = await Ready("crate-carry", "Ines", "Tobi");
        await Asking.Until(() => Get<DeviceRack>().Status().Count(d => d.Connected) >= 4);
        await recorder.Start(new RecordRequest(2, "HL_091_together", 1, studio.Ids("Ines", "Tobi"), string.Empty, studio.Ids("Crate")));
        await Asking.Until(() => recorder.Now() is { State: "Recording", Frames: > 300 });
        var id = await recorder.Stop();
        await using var db = Get<IDbContextFactory<EidolonDb>>().CreateDbContext();
        var take = await db.Takes.SingleAsync(t => t.Id == id);
        var devices = JsonNode.Parse(take.Devices)!.AsArray();
        Assert.True(devices.Count >= 4, take.Devices);
        Assert.NotNull(take.CalibrationId);
        foreach (var stream in new[] { "suit", "witness-1", "witness-2" })
        {
            Assert.True(await db.Streams.Where(c => c.TakeId == id && c.Name == stream).SumAsync(c => c.FrameCount) > 40, stream);
        }

        await Asking.Until(() => db.Jobs.AsNoTracking().Any(j => j.TakeId == id && j.Kind == JobKinds.Unpack && j.State == JobState.Done));
        // The take can be solved from whatever was on: who is first on the slate wore the suit and was filmed.
        using (var scope = studio.Services.CreateScope())
        {
            var open = scope.ServiceProvider.GetRequiredService<TakeService>().Open(id);
            Assert.Equal(["solve", "solve-suit", "solve-video"], open.Performers[0].Solvers);
            Assert.Equal(["solve"], open.Performers[1].Solvers);
            var store = new SampleStore(db);
            var ines = open.Performers[0].Subject.Id;
            var worn = store.ReadSuit(await db.Streams.SingleAsync(c => c.TakeId == id && c.Name == StreamNames.Suit(ines)), "t");
            var seconds = take.FrameCount / take.FrameRate;
            Assert.InRange(worn.FrameCount / worn.FrameRate, seconds - 0.5, seconds + 0.02);
            var heard = Enumerable
                .Range(0, worn.FrameCount)
                .Where(f => !float.IsNaN(worn.Samples[f * Core.Inertial.SuitTake.Stride]))
                .ToArray();
            Assert.True(heard.Length > 0.6 * worn.FrameCount, $"{heard.Length} of {worn.FrameCount}");
            // Every accelerometer feels the Earth.
            Assert.All(heard, f => Assert.InRange(Math.Abs(worn.Samples[(f * Core.Inertial.SuitTake.Stride) + 3]), 0, 200));
            var films = await db.Streams.Where(c => c.TakeId == id && c.Kind == StreamKind.Film).ToListAsync();
            Assert.True(films.Count >= 2);
            Assert.All(films, f => Assert.Equal((ines, 30.0), (f.SubjectId!.Value, f.FrameRate)));
            Assert.Equal(
                await db.Streams.AnyAsync(c => c.TakeId == id && c.Name == "face" && c.FrameCount >= 60),
                await db.Streams.AnyAsync(c => c.TakeId == id && c.Name == StreamNames.Face(ines))
            );
        }

        var live = Markers(db, take);
        var pictures = Pictures(db, take);
        Assert.Equal(take.FrameCount, pictures.FrameCount);
        var ring = Core.Formats.Json.CameraRingJson.Read(
            System.Text.Encoding.UTF8.GetBytes((await db.Calibrations.SingleAsync(c => c.Id == take.CalibrationId)).Cameras),
            "calibration"
        );
        var (again, _) = TakeReconstructor.Reconstruct(pictures, ring);
        // A stage that is behind leaves frames out of the live points, never out of the pictures: the fullest frame is compared.
        var f = Enumerable.Range(60, take.FrameCount - 60).MaxBy(i => live.At(i).ToArray().Count(MarkerTake.Seen));
        var a = live.At(f).ToArray().Where(MarkerTake.Seen).ToArray();
        var b = again.At(f).ToArray().Where(MarkerTake.Seen).ToArray();
        Assert.True(a.Length > 90 && b.Length > 90, $"{a.Length} live, {b.Length} again");
        Assert.True(a.Count(p => b.Any(q => (p - q).Length() < 0.002f)) > 0.95 * a.Length);
        // The crate's places were recorded beside the points, frame for frame.
        var crate = await db.Streams.AsNoTracking().SingleAsync(s => s.TakeId == id && s.Kind == StreamKind.Places);
        var places = new SampleStore(db).ReadPlaces(crate, take.Name);
        Assert.Equal(take.FrameCount, places.FrameCount);
        Assert.True(places.SeenFrames > 0.5 * places.FrameCount, $"{places.SeenFrames} of {places.FrameCount}");
    }

    [Fact]
    public async Task A_pulled_cable_leaves_a_hole_of_the_right_length()
    {
        var recorder = await Ready("gangplank-hop", "Tobi");
        await recorder.Start(new RecordRequest(2, "HL_092_cable", 1, studio.Ids("Tobi"), string.Empty));
        await Asking.Until(() => recorder.Now() is { State: "Recording", Frames: > 60 });
        var clock = System.Diagnostics.Stopwatch.StartNew();
        Get<StandInStage>().Cut("ring", true);
        await Task.Delay(700);
        Get<StandInStage>().Cut("ring", false);
        var cut = clock.Elapsed.TotalSeconds;
        var before = recorder.Now().Frames;
        await Asking.Until(() => recorder.Now().Frames > before + 120);
        var id = await recorder.Stop();
        await using var db = Get<IDbContextFactory<EidolonDb>>().CreateDbContext();
        var take = await db.Takes.SingleAsync(t => t.Id == id);
        var pictures = Pictures(db, take);
        var empty = Enumerable.Range(0, pictures.FrameCount).Count(f => Enumerable.Range(0, 12).All(c => pictures.UAt(f, c).Length == 0));
        Assert.InRange(empty / 120.0, cut - 0.15, cut + 0.25);
        Assert.Equal(take.FrameCount, pictures.FrameCount);
    }

    [Fact]
    public async Task A_flood_of_strange_packets_does_not_disturb_a_recording()
    {
        var recorder = await Ready("gangplank-hop", "Tobi");
        var rack = Get<DeviceRack>();
        var (bad, lost) = (rack.Ring.Meter.Bad, rack.Ring.Meter.Lost);
        await recorder.Start(new RecordRequest(2, "HL_093_flood", 1, studio.Ids("Tobi"), string.Empty));
        await Asking.Until(() => recorder.Now() is { State: "Recording", Frames: > 60 });
        using var socket = new System.Net.Sockets.UdpClient();
        var random = new Random(8);
        var junk = new byte[1400];
        var sent = 0;
        for (var burst = 0; burst < 100; burst++)
        {
            for (var k = 0; k < 60; k++)
            {
                random.NextBytes(junk);
                await socket.SendAsync(junk.AsMemory(0, random.Next(1, junk.Length)), rack.Devices[k % rack.Devices.Count].Address);
                sent++;
            }

            await Task.Delay(10);
        }

        await Asking.Until(() => recorder.Now().Frames > 300);
        var id = await recorder.Stop();
        Assert.True(rack.Devices.Sum(d => d.Meter.Bad) > 0.9 * sent && rack.Ring.Meter.Bad > bad);
        Assert.Equal(lost, rack.Ring.Meter.Lost);
        await using var db = Get<IDbContextFactory<EidolonDb>>().CreateDbContext();
        var take = await db.Takes.SingleAsync(t => t.Id == id);
        var pictures = Pictures(db, take);
        Assert.All(Enumerable.Range(0, pictures.FrameCount), f =>
            Assert.True(Enumerable.Range(0, 12).Sum(c => pictures.UAt(f, c).Length) > 100)
        );
    }

    [Fact]
    public Task Ring_and_witness_show_the_same_moment_of_the_scene() => OnTheClock.Again(SameMoment);

    private async Task SameMoment(int number)
    {
        var recorder = await Ready("lamp-walk", "Ines");
        await recorder.Start(new RecordRequest(2, "HL_094_step", number, studio.Ids("Ines"), string.Empty));
        await Asking.Until(() => recorder.Now() is { State: "Recording", Frames: > 420 });
        var id = await recorder.Stop();
        await using var db = Get<IDbContextFactory<EidolonDb>>().CreateDbContext();
        var take = await db.Takes.SingleAsync(t => t.Id == id);
        // The scene was begun anew with the recording: frame 0 of the ring is its first moment, and so it is in the witness camera.
        var expected = StandIns.Video.WitnessSimulator.See(
            StandIns.Scenes.SceneCatalog.Perform("lamp-walk", HarbourCast.Ines, 1, WitnessPoints.Rate),
            0,
            31
        );
        var chunks = await db
            .Chunks.Where(c => db.Streams.Any(s => s.Id == c.StreamId && s.TakeId == id && s.Name == "witness-1"))
            .OrderBy(c => c.FirstFrame)
            .Select(c => c.Data)
            .ToListAsync();
        var records = Records(chunks).ToList();
        Assert.True(records.Count > 60);
        var values = new float[WitnessPoints.Values];
        var apart = new List<double>();
        foreach (var (time, payload) in records.Where(r => r.Time is > 0.5 and < 3))
        {
            Assert.True(FloatPayload.TryRead(payload, values));
            var at = Enumerable
                .Range(0, 120)
                .MinBy(f => Enumerable.Range(0, 9).Sum(v => Math.Abs(expected[(f * values.Length) + v] - values[v])));
            apart.Add(time - (at / WitnessPoints.Rate));
        }

        // What is left is how long before its first kept frame the ring had begun (less than a beat) and how late a busy machine sends. Devices that
        // begin by themselves would be seconds apart; nine of ten packets must agree within two pictures.
        var sorted = apart.Order().ToList();
        Assert.InRange(sorted[sorted.Count / 2], -StandIns.Devices.SceneClock.Beat - 0.05, StandIns.Devices.SceneClock.Beat + 0.05);
        Assert.True(
            sorted[^((sorted.Count / 20) + 1)] - sorted[sorted.Count / 20] < 2.1 / WitnessPoints.Rate,
            $"{sorted[0]:0.000} to {sorted[^1]:0.000}"
        );
    }

    private static MarkerTake Markers(EidolonDb db, Take take) =>
        new SampleStore(db).ReadMarkers(
            db.Streams.AsNoTracking().Single(s => s.TakeId == take.Id && s.Name == StreamNames.Markers),
            take.Name
        );

    private static CentroidTake Pictures(EidolonDb db, Take take) =>
        new SampleStore(db).ReadCentroids(
            db.Streams.AsNoTracking().Single(s => s.TakeId == take.Id && s.Name == StreamNames.Ring),
            RingDescription.Usual.Cameras,
            take.Name
        );

    /// <summary>Packets of a device as they stand in a take: time on the take's clock, source, size, payload.</summary>
    private static IEnumerable<(double Time, byte[] Payload)> Records(IEnumerable<byte[]> chunks)
    {
        foreach (var chunk in chunks)
        {
            for (var at = 0; at < chunk.Length; )
            {
                var size = BitConverter.ToUInt16(chunk, at + 9);
                yield return (BitConverter.ToDouble(chunk, at), chunk[(at + 11)..(at + 11 + size)]);
                at += 11 + size;
            }
        }
    }

    [Theory]
    [InlineData("HL 021", "cannot be")]
    [InlineData("HL_030_gangplank-hop", "exists already")]
    public async Task A_bad_slate_is_refused_with_what_to_type(string setUp, string expected)
    {
        var recorder = await Ready("gangplank-hop", "Tobi");
        var e = await Assert.ThrowsAsync<RefusedException>(() =>
            recorder.Start(new RecordRequest(2, setUp, 1, studio.Ids("Tobi"), string.Empty))
        );
        Assert.Contains(expected, e.Message, StringComparison.Ordinal);
    }
}
