using System.Net;
using System.Net.Sockets;
using System.Numerics;
using Eidolon.Core;
using Eidolon.Core.Optical;
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

namespace Eidolon.Studio.Tests.Outside;

/// <summary>What goes wrong around a recording: forged packets, a database that refuses, a disk without room. Nothing that was recorded is harmed.</summary>
[Collection(nameof(OnTheClock)), Trait(LongRun.Run, LongRun.Whole)]
public sealed class StageHarmTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    private T Get<T>()
        where T : notnull => studio.Services.GetRequiredService<T>();

    private EidolonDb Db() => Get<IDbContextFactory<EidolonDb>>().CreateDbContext();

    private RecordRequest Slate(string name, int day = 2) => new(day, name, 1, studio.Ids("Tobi"), string.Empty);

    private async Task<Recorder> Ready()
    {
        await Get<StandInStage>().Perform("gangplank-hop", "Tobi");
        Get<LiveStage>().Track(studio.Ids("Tobi"), BodyPart.Whole);
        await Asking.Until(() => Get<LiveStage>().View.Points > 30 && Get<DeviceRack>().Ring.Meter.Connected);
        var recorder = Get<Recorder>();
        recorder.PreRollSeconds = 0.2;
        return recorder;
    }

    private async Task Sql(string sql)
    {
        await using var db = Db();
        await db.Database.ExecuteSqlRawAsync(sql);
    }

    [Fact]
    public async Task Forged_packets_neither_stop_the_ring_nor_make_empty_frames()
    {
        var recorder = await Ready();
        var ring = Get<DeviceRack>().Ring;
        await recorder.Start(Slate("HL_095_forged"));
        await Asking.Until(() => recorder.Now() is { State: "Recording", Frames: > 60 });
        using var forger = new UdpClient(new IPEndPoint(IPAddress.Loopback, 0));
        var bad = ring.Meter.Bad;
        for (var i = 0; i < 12; i++)
        {
            var packet = new byte[DevicePacket.Header + 8];
            new DevicePacket(DeviceKind.Ring, (byte)i, null, (uint)(0x7ffffff0 + i), 1e11).Write(packet, 8);
            await forger.SendAsync(packet, ring.Address);
        }

        await Asking.Until(() => ring.Meter.Bad >= bad + 12);
        Assert.Contains("another sender", ring.Meter.Status(ring).LastError, StringComparison.Ordinal);
        var before = recorder.Now().Frames;
        await Asking.Until(() => recorder.Now().Frames > before + 120);
        var id = await recorder.Stop();
        await using var db = Db();
        var take = await db.Takes.SingleAsync(t => t.Id == id);
        Assert.Equal(TakeState.Kept, take.State);
        var pictures = new SampleStore(db).ReadCentroids(
            db.Streams.AsNoTracking().Single(s => s.TakeId == id && s.Name == StreamNames.Ring),
            RingDescription.Usual.Cameras,
            take.Name
        );
        var empty = Enumerable.Range(0, take.FrameCount).Count(f => Enumerable.Range(0, 12).All(c => pictures.UAt(f, c).Length == 0));
        Assert.True(take.FrameCount < 3000 && empty < 60, $"{take.FrameCount} frames, {empty} empty");
    }

    [Fact]
    public void A_ring_with_another_clock_goes_on_where_the_recording_is()
    {
        var streams = new RecordingStreams(120, []);
        RingFrame Frame(uint n, double clock, double at) => new(n, clock, at, new (float[], float[])?[2]);
        for (uint i = 0; i < 120; i++)
        {
            streams.Add(Frame(i, 1000 + (i / 120.0), 50 + (i / 120.0)));
        }

        // Two seconds later, from a device that was started anew with a clock of its own: a hole of two seconds, no year of empty frames.
        for (uint i = 0; i < 120; i++)
        {
            streams.Add(Frame(i, 9e9 + (i / 120.0), 53 + (i / 120.0)));
        }

        Assert.InRange(streams.Frames, 475, 485);
    }

    [Fact]
    public void Frames_that_the_live_stage_missed_are_counted_and_those_no_camera_saw_are_not()
    {
        var streams = new RecordingStreams(120, []);
        for (uint i = 0; i < 120; i++)
        {
            // Nothing arrives at frame 100: the next one leaves a hole there. Of every ten frames one is not worked on in time.
            if (i == 100)
            {
                continue;
            }

            var clock = 1000 + (i / 120.0);
            var ring = new RingFrame(i, clock, 50 + (i / 120.0), [([1f], [1f]), null]);
            streams.Add(ring);
            if (i % 10 != 3)
            {
                streams.Add(new LiveFrame(i, clock, ring.At, new Vector3[LiveStage.Slots], []));
            }
        }

        Assert.Equal(0, streams.Missed);
        streams.Take(60);
        Assert.Equal(6, streams.Missed);
        streams.Take(60);
        Assert.Equal((12, 120), (streams.Missed, streams.Written));
    }

    [Fact]
    public async Task A_start_that_fails_leaves_the_recorder_ready_and_every_other_take_as_it_is()
    {
        var recorder = await Ready();
        await recorder.Start(Slate("HL_096_first"));
        await Asking.Until(() => recorder.Now() is { State: "Recording", Frames: > 60 });
        var first = await recorder.Stop();
        var (frames, revision) = await Of(first);
        await Assert.ThrowsAsync<RefusedException>(() => recorder.Start(Slate("HL_096_unknown-day", day: 4711)));
        await Sql("CREATE TRIGGER refuse BEFORE INSERT ON Streams BEGIN SELECT RAISE(ABORT, 'no'); END");
        await Assert.ThrowsAnyAsync<Exception>(() => recorder.Start(Slate("HL_096_fails")));
        await Sql("DROP TRIGGER refuse");
        Assert.Equal("Kept", recorder.Now().State);
        Assert.Equal(0, await recorder.Stop());
        Assert.Equal((frames, revision), await Of(first));
        await using (var db = Db())
        {
            Assert.False(await db.Takes.AnyAsync(t => t.Name.StartsWith("HL_096_unknown") || t.Name.StartsWith("HL_096_fails")));
        }

        // And it records again.
        await recorder.Start(Slate("HL_096_second"));
        await Asking.Until(() => recorder.Now() is { State: "Recording", Frames: > 60 });
        Assert.NotEqual(0, await recorder.Stop());
    }

    [Fact]
    public async Task Samples_that_could_not_be_written_are_written_when_it_works_again()
    {
        var recorder = await Ready();
        await recorder.Start(Slate("HL_097_stutter"));
        await Asking.Until(() => recorder.Now() is { State: "Recording", Frames: > 60 });
        await Sql("CREATE TRIGGER refuse BEFORE INSERT ON Chunks BEGIN SELECT RAISE(ABORT, 'no'); END");
        await Asking.Until(() => Get<Faults>().Recent.Any(f => f.StartsWith("the recorder", StringComparison.Ordinal)));
        using (var http = new HttpClient())
        {
            Assert.Contains("the recorder", await http.GetStringAsync(studio.Address), StringComparison.Ordinal);
        }

        await Sql("DROP TRIGGER refuse");
        var before = recorder.Now().Frames;
        await Asking.Until(() => recorder.Now().Frames > before + 60);
        var id = await recorder.Stop();
        await Asking.Until(() => recorder.Now() is { State: "Kept" } now && now.Kept == now.Frames);
        await using var db = Db();
        var take = await db.Takes.SingleAsync(t => t.Id == id);
        var markers = new SampleStore(db).ReadMarkers(
            db.Streams.AsNoTracking().Single(s => s.TakeId == id && s.Name == StreamNames.Markers),
            take.Name
        );
        Assert.Equal((take.FrameCount, TakeState.Kept), (markers.FrameCount, take.State));
        Assert.DoesNotContain(Get<Faults>().Recent, f => f.StartsWith("the recorder", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_take_without_a_frame_says_so_and_is_not_kept()
    {
        var recorder = await Ready();
        recorder.PreRollSeconds = 30;
        await recorder.Start(Slate("HL_098_nothing"));
        Assert.Equal(0, await recorder.Stop());
        Assert.Contains("HL_098_nothing_01 has no frames", recorder.Now().Said, StringComparison.Ordinal);
        Assert.Equal("Ready", recorder.Now().State);
        await using var db = Db();
        Assert.False(await db.Takes.AnyAsync(t => t.Name == "HL_098_nothing_01"));
    }

    [Fact]
    public async Task Stand_ins_rest_when_nobody_looks_and_wake_when_somebody_does()
    {
        await Ready();
        var stage = Get<StandInStage>();
        stage.Linger = TimeSpan.Zero;
        try
        {
            var ring = Get<DeviceRack>().Ring.Meter;
            await Asking.Until(() => !ring.Connected);
            Get<LiveAudience>().Enter("somebody");
            await Asking.Until(() => ring.Connected);
        }
        finally
        {
            Get<LiveAudience>().Leave("somebody");
            stage.Linger = TimeSpan.FromSeconds(30);
        }
    }

    private async Task<(int Frames, int Revision)> Of(int take)
    {
        await using var db = Db();
        var t = await db.Takes.SingleAsync(x => x.Id == take);
        return (t.FrameCount, t.Revision);
    }
}
