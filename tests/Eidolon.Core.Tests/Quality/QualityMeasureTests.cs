using System.Numerics;
using Eidolon.Core.Clipping;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Quality;

/// <summary>Measures against what was done to a motion on purpose.</summary>
public sealed class QualityMeasureTests
{
    private static readonly Person Performer = new("Oda", 1.74f, 1.02f, 12);

    [Theory]
    [InlineData(20)]
    [InlineData(45)]
    public void A_figure_that_is_sunk_into_the_floor_is_sunk_by_so_much(float millimetres)
    {
        var motion = Acts.Perform("lamp-walk", Performer, 1).Actors[0].Motion;
        var before = MotionQuality.Measure(motion).Penetration;
        var sunk = motion.Copy();
        var pelvis = motion.Skeleton.IndexOf(BodyRole.Pelvis);
        for (var f = 0; f < sunk.FrameCount; f++)
        {
            sunk.TranslationsAt(f)[pelvis] -= new Vector3(0, millimetres / 1000, 0);
        }

        var quality = MotionQuality.Measure(sunk);
        Assert.InRange(quality.Penetration - before, millimetres - 12, millimetres + 12);
        Assert.Equal(millimetres > 40, quality.Findings.Any(f => f is { Kind: "floor", Severity: Severity.MustFix }));
    }

    [Fact]
    public void A_hand_in_a_thigh_clips_by_as_much_as_it_is_inside()
    {
        var s = Performer.Skeleton;
        var rest = new Motion(s, 120, 1);
        s.Joints.Select(j => j.RestRotation).ToArray().CopyTo(rest.RotationsAt(0));
        var world = s.RestPositions.ToArray();
        int thigh = s.IndexOf(BodyRole.ThighL),
            knee = s.IndexOf(BodyRole.ShinL),
            hand = s.IndexOf(BodyRole.HandL);
        // The radii of a thigh of 245 mm are 36 and of its hand 22; this thigh is longer, and they grow with it.
        var size = (world[knee] - world[thigh]).Length() / 0.245f;
        var middle = Vector3.Lerp(world[thigh], world[knee], 0.5f);
        foreach (var (apart, depth) in new[] { (0.030f, 28f), (0.045f, 13f), (0.056f, 0f) })
        {
            world[hand] = middle + new Vector3(0, 0, apart * size);
            world[s.IndexOf(BodyRole.ForearmL)] = world[hand] + new Vector3(0, 0, 0.25f);
            var found = ClippingMeasure.Measure(rest, world);
            if (depth == 0)
            {
                Assert.DoesNotContain(found, c => c.DepthMillimetres > 5 * size);
                continue;
            }

            Assert.Equal(depth * size, Assert.Single(found).DepthMillimetres, 0.5);
        }
    }
}
