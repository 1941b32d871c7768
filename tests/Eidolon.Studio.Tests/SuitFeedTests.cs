using System.Runtime.InteropServices;
using Eidolon.Core.Inertial;
using Eidolon.Demo;
using Eidolon.Devices;
using Eidolon.StandIns.Inertial;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.Studio.Live;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging.Abstractions;

namespace Eidolon.Studio.Tests;

/// <summary>The suit moves its wearer as soon as the poses were held.</summary>
[Collection(nameof(OnTheClock)), Trait(LongRun.Run, LongRun.Whole)]
public sealed class SuitFeedTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    private static readonly float[] Samples = SuitSimulator.Measure(
        SceneCatalog.Perform("suit-patrol", HarbourCast.Ines, 3, SuitSensors.Rate).Actors[0],
        3
    );

    [Fact]
    public async Task From_the_poses_on_every_sample_moves_the_wearer_and_a_suit_put_on_anew_begins_anew()
    {
        var device = new Wire();
        var feed = new SuitFeed(device, new Faults(TimeProvider.System, NullLogger<Faults>.Instance));
        var moved = 0;
        feed.Moved += () => moved++;
        feed.Wear(HarbourCast.Ines.Skeleton);
        Assert.Null(feed.Check());
        device.Send(0, 400);
        Assert.False(feed.Ready);
        Assert.Equal("wait", feed.Check()!.State);
        var at = 400;
        await Asking.Until(() =>
        {
            device.Send(at, at + 50);
            at += 50;
            return feed.Ready;
        });
        Assert.InRange(at, 700, 2600);
        Assert.Equal("good", feed.Check()!.State);
        var before = moved;
        device.Send(at, at + 10);
        Assert.Equal(before + 10, moved);
        var ines = feed.Now!;
        Assert.InRange(ines.Root.Y, 0.8, 1.05);
        Assert.Equal(HarbourCast.Ines.Skeleton.Count, ines.Turns.Length);
        // Somebody taller wears it: the same turns, longer legs.
        feed.Wear(HarbourCast.Tobi.Skeleton);
        Assert.Null(feed.Now);
        device.Send(at + 10, at + 11);
        Assert.True(feed.Now!.Root.Y > ines.Root.Y + 0.04);
        // Packets that come again or too late move nobody.
        before = moved;
        device.Send(at - 200, at - 190);
        Assert.Equal(before, moved);
        device.Session++;
        device.Send(0, 10);
        Assert.False(feed.Ready);
        Assert.Null(feed.Now);
        Assert.Equal(before, moved);
    }

    [Fact]
    public async Task Without_cameras_the_suit_alone_shows_its_wearer_and_drives_the_character()
    {
        var (stage, standIns) = (studio.Services.GetRequiredService<LiveStage>(), studio.Services.GetRequiredService<StandInStage>());
        var ids = studio.Ids("Ines", "Lamplighter");
        await standIns.Perform("suit-patrol", "Ines");
        stage.Track([ids[0]], BodyPart.Whole);
        stage.Play(ids[0], ids[1]);
        standIns.Cut("ring", true);
        try
        {
            await Asking.Until(() => stage.View.Bodies is [{ Found: true, BySuit: true, Seen: 0 }]);
            Assert.NotNull(stage.View.CharacterMilliseconds);
            var status = studio.Services.GetRequiredService<StageStatus>().Now();
            Assert.Contains(status.Checks, c => c is { Name: "Ines found", State: "good", Value: "by the suit" });
            Assert.Contains(status.Checks, c => c is { Key: "suitlive", State: "good" });
        }
        finally
        {
            standIns.Cut("ring", false);
            stage.Play(ids[0], 0);
        }

        // As soon as the cameras see the markers again they are believed.
        await Asking.Until(() => stage.View.Bodies is [{ Found: true, BySuit: false, Seen: > 20 }]);
    }

    /// <summary>A suit at the end of a wire that is played as fast as one likes.</summary>
    private sealed class Wire : IDeviceSource
    {
        public int Session { get; set; } = 1;

        public string Stream => "suit";

        public string Name => "Suit";

        public string Detail => string.Empty;

        public DeviceKind Kind => DeviceKind.Suit;

        public double Rate => SuitSensors.Rate;

        public string Arrives => string.Empty;

        public DeviceMeter Meter { get; } = new(SuitSensors.Rate);

        public event Action<DeviceArrival>? Arrived;

        public Task Run(CancellationToken cancel) => Task.CompletedTask;

        public void Send(int from, int to)
        {
            for (var f = from; f < to; f++)
            {
                var packet = new DevicePacket(DeviceKind.Suit, 0, null, (uint)f, f / SuitSensors.Rate);
                Meter.Note(packet, StudioClock.Now, "wire");
                Arrived!(
                    new DeviceArrival(
                        packet,
                        MemoryMarshal.AsBytes(Samples.AsSpan(f * SuitTake.Stride, SuitTake.Stride)).ToArray(),
                        StudioClock.Now,
                        Session
                    )
                );
            }
        }
    }
}
