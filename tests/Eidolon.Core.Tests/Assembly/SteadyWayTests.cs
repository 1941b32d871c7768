using Eidolon.Core.Assembly;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Assembly;

/// <summary>A point that stands is kept still, and changes nothing where it does not.</summary>
public sealed class SteadyWayTests
{
    private const double Rate = 120;

    /// <summary>It comes, stands with noise from frame 40 to 79, and goes on.</summary>
    private static (float[] Way, bool[] Stands) Shaky(int seed)
    {
        var random = new Random(seed);
        var way = new float[120];
        for (var f = 0; f < 120; f++)
        {
            way[f] =
                f < 40 ? (f - 40) * .01f
                : f < 80 ? (float)(random.NextDouble() - .5) * .008f
                : (f - 79) * .01f;
        }

        return (way, [.. Enumerable.Range(0, 120).Select(f => f is >= 40 and < 80)]);
    }

    private static float Step(float[] way, int from, int to) =>
        Enumerable.Range(from + 1, to - from - 1).Max(f => MathF.Abs(way[f] - way[f - 1]));

    [Theory]
    [InlineData(0)]
    [InlineData(3.6)]
    public void A_stand_is_still_and_what_is_far_from_it_stays(double rest)
    {
        var (way, stands) = Shaky(4);
        var kept = (float[])way.Clone();
        SteadyWay.Keep(kept, stands, null, null, rest, Rate);
        Assert.True(Step(way, 45, 75) > .003f);
        Assert.InRange(Step(kept, 45, 75), 0, 2e-5f);
        for (var f = 0; f < 120; f++)
        {
            Assert.InRange(MathF.Abs(kept[f] - way[f]), 0, f is < 20 or >= 100 ? 5e-4f : .006f);
        }
    }

    [Fact]
    public void A_stand_between_two_places_that_are_given_goes_evenly_from_one_to_the_other()
    {
        var way = new float[30];
        SteadyWay.Keep(way, [.. Enumerable.Repeat(true, 30)], -.0155f, .0155f, 0, Rate);
        for (var f = 1; f < 30; f++)
        {
            Assert.InRange(way[f] - way[f - 1], .0009f, .0011f);
        }

        Assert.InRange(way[0] + .0155f, .0009f, .0011f);
    }

    [Fact]
    public void Feet_that_shake_in_a_recording_stand_still_through_an_overlap()
    {
        var walk = Acts.Perform("lamp-walk", HarbourCast.Ines, 1, Rate).Actors[0].Motion;
        var random = new Random(8);
        var shaken = walk.Copy();
        foreach (var role in new[] { BodyRole.ThighL, BodyRole.ThighR })
        {
            var j = walk.Skeleton.IndexOf(role);
            for (var f = 0; f < walk.FrameCount; f++)
            {
                ref var q = ref shaken.Rotations[(f * walk.Skeleton.Count) + j];
                q = System.Numerics.Quaternion.Normalize(
                    q * Core.Geometry.Rotations.Exp(new System.Numerics.Vector3((float)(random.NextDouble() - .5) * .012f, 0, 0))
                );
            }
        }

        var (a, b) = (new ClipMotion(MotionEdits.Range(shaken, 0, 200)), new ClipMotion(MotionEdits.Range(shaken, 240, 420)));
        var own = OverlapMeasure.Slide(shaken, 100, 300);
        var overlap = Assert.Single(ClipJoiner.Join([a, b], 60).Overlaps);
        Assert.True(own > 3, $"{own:0.0} mm");
        Assert.InRange(overlap.SlideMillimetres, 0, 2);
        Assert.InRange(overlap.AccelerationPeakRatio, 0, 1.5);
    }
}
