using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.Devices;
using Eidolon.StandIns.Devices;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.StandIns;

public sealed class DeviceTests
{
    [Fact]
    public void Slots_lose_no_sample_and_hold_one_dot_at_a_time()
    {
        var seen = MarkerSimulator.Labelled(
            SceneCatalog.Perform("haul-rope", HarbourCast.Tobi, 2),
            new MarkerSimulator.Settings(MinimumCameras: 3)
        );
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
        Assert.Contains(
            "tea",
            Assert.Throws<ArgumentException>(() => SceneCatalog.Perform("tea", HarbourCast.Ines, 1)).Message,
            StringComparison.Ordinal
        );
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
        int Hidden(int cameras) =>
            MarkerSimulator
                .Labelled(performance, new MarkerSimulator.Settings(MinimumCameras: cameras))
                .Positions.Count(p => !MarkerTake.Seen(p));
        Assert.True(Hidden(2) < Hidden(3) && Hidden(3) < Hidden(5));
        Assert.Equal(
            0,
            MarkerSimulator.Labelled(performance, new MarkerSimulator.Settings(Occlusion: false)).Positions.Count(p => !MarkerTake.Seen(p))
        );
    }
}
