using System.Numerics;
using CsCheck;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Devices;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.StandIns;

public sealed class DeviceTests
{
    [Fact]
    public void A_packet_comes_back() => Gen.Select(Gen.Int[0, 1 << 20], Gen.UInt).Sample((seed, frame) =>
    {
        var random = new Random(seed);
        var slots = Enumerable.Range(0, RingPacket.Slots).Select(_ => random.Next(3) == 0 ? MarkerTake.Hidden : new Vector3(random.NextSingle(), random.NextSingle(), -random.NextSingle())).ToArray();
        var buffer = new byte[2048];
        var size = RingPacket.Write(buffer, frame, slots);
        var back = new Vector3[RingPacket.Slots];
        Assert.True(RingPacket.TryRead(buffer.AsSpan(0, size), out var number, back));
        Assert.Equal(frame, number);
        Assert.True(slots.Zip(back).All(p => p.First == p.Second || (!MarkerTake.Seen(p.First) && !MarkerTake.Seen(p.Second))));
        Assert.False(RingPacket.TryRead(buffer.AsSpan(0, size - 1), out _, back));
    });

    [Fact]
    public void Random_bytes_are_never_a_packet_with_unusable_numbers() => Gen.Byte.Array[0, 200].Sample(bytes =>
    {
        var slots = new Vector3[RingPacket.Slots];
        byte[] packet = [.. "ERNG"u8, .. bytes];
        if (RingPacket.TryRead(packet, out _, slots))
        {
            Assert.All(slots, p => Assert.True(!MarkerTake.Seen(p) || float.IsFinite(p.X + p.Y + p.Z)));
        }
    });

    [Fact]
    public void Slots_lose_no_sample_and_hold_one_dot_at_a_time()
    {
        var seen = MarkerSimulator.Labelled(SceneCatalog.Perform("haul-rope", HarbourCast.Tobi, 2), new MarkerSimulator.Settings(MinimumCameras: 3));
        var slots = SlotMaker.Make(seen, 2);
        for (var f = 0; f < seen.FrameCount; f += 7)
        {
            var a = seen.At(f).ToArray().Where(MarkerTake.Seen).OrderBy(p => p.X).ToArray();
            var b = slots.At(f).ToArray().Where(MarkerTake.Seen).OrderBy(p => p.X).ToArray();
            Assert.Equal(a, b);
        }
    }

    [Fact]
    public void The_same_take_is_performed_the_same_and_another_one_differently()
    {
        Motion Act(int take) => SceneCatalog.Perform("lamp-walk", HarbourCast.Ines, take).Actors[0].Motion;
        Assert.Equal(Act(1).Rotations, Act(1).Rotations);
        Assert.NotEqual(Act(1).FrameCount, Act(2).FrameCount);
        Assert.Contains("tea", Assert.Throws<ArgumentException>(() => SceneCatalog.Perform("tea", HarbourCast.Ines, 1)).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void A_hop_flies_as_gravity_asks()
    {
        var motion = SceneCatalog.Perform("gangplank-hop", HarbourCast.Tobi, 1).Actors[0].Motion;
        var p = ForwardKinematics.WorldPositions(motion);
        var n = motion.Skeleton.Count;
        // The middle of the hop: both feet off the floor, hips falling freely.
        var (a, b) = (297, 330);
        for (var f = a; f < b; f += 4)
        {
            var acceleration = (p[(f + 4) * n].Y - (2 * p[f * n].Y) + p[(f - 4) * n].Y) * 120 * 120 / 16;
            Assert.InRange(acceleration, -11.5f, -8f);
        }
    }

    [Fact]
    public void Bodies_hide_markers_from_the_ring_more_when_more_cameras_are_asked()
    {
        var performance = SceneCatalog.Perform("haul-rope", HarbourCast.Tobi, 1);
        int Hidden(int cameras) => MarkerSimulator.Labelled(performance, new MarkerSimulator.Settings(MinimumCameras: cameras)).Positions.Count(p => !MarkerTake.Seen(p));
        Assert.True(Hidden(2) < Hidden(3) && Hidden(3) < Hidden(5));
        Assert.Equal(0, MarkerSimulator.Labelled(performance, new MarkerSimulator.Settings(Occlusion: false)).Positions.Count(p => !MarkerTake.Seen(p)));
    }
}
