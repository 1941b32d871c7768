using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Quality;

public sealed class ComparisonTests
{
    private static readonly Performance Hop = Acts.Perform("gangplank-hop", HarbourCast.Tobi, 1, 60);

    private static Motion Motion => Hop.Actors[0].Motion;

    [Fact]
    public void A_motion_is_like_itself()
    {
        var same = Comparison.Of(Motion, Motion, Laying.None);
        Assert.True(same.Alike);
        Assert.All(same.Joints, j => Assert.True(j is { MaxMillimetres: < 1e-3, MeanDegrees: < 0.1 }));
        Assert.Equal((0, Motion.FrameCount), (same.OffsetFrames, same.Frames));
    }

    [Fact]
    public void A_motion_turned_and_moved_over_the_floor_is_laid_back()
    {
        var (moved, turn) = (Motion.Copy(), Rotations.AboutAxis(1, 0.7));
        for (var f = 0; f < moved.FrameCount; f++)
        {
            var root = f * moved.Skeleton.Count;
            moved.Translations[root] = Vector3.Transform(moved.Translations[root], turn) + new Vector3(1.2f, 0, -0.4f);
            moved.Rotations[root] = turn * moved.Rotations[root];
        }

        Assert.True(Comparison.Of(Motion, moved, Laying.None).MeanMillimetres > 500);
        var laid = Comparison.Of(Motion, moved, Laying.Floor);
        Assert.True(laid.MeanMillimetres < 0.5, $"{laid.MeanMillimetres} mm");
        Assert.All(laid.Joints, j => Assert.True(j.MeanDegrees < 0.2));
    }

    [Fact]
    public void A_height_that_is_off_is_taken_out_by_the_pelvis_alone()
    {
        var lifted = Motion.Copy();
        for (var f = 0; f < lifted.FrameCount; f++)
        {
            lifted.Translations[f * lifted.Skeleton.Count].Y += 0.25f;
        }

        Assert.Equal(250, Comparison.Of(Motion, lifted, Laying.Floor).MeanMillimetres, 0.5);
        Assert.True(Comparison.Of(Motion, lifted, Laying.Pelvis).MeanMillimetres < 0.1);
    }

    [Fact]
    public void One_that_begins_later_is_brought_in_step()
    {
        var later = MotionEdits.Range(Motion, 90, Motion.FrameCount);
        var found = Comparison.Of(Motion, later, Laying.None);
        Assert.Equal(90, found.OffsetFrames);
        Assert.True(found.MeanMillimetres < 0.1);
        Assert.Equal(-90, Comparison.Of(later, Motion, Laying.None).OffsetFrames);
    }

    [Fact]
    public void An_hour_is_brought_in_step_to_the_frame()
    {
        const int frames = 200_000;
        const int later = 12_345;
        var random = new Random(6);
        var (take, speed) = (new MarkerTake(["A"], 60, frames), Vector3.Zero);
        take[0, 0] = Vector3.Zero;
        for (var f = 1; f < frames; f++)
        {
            speed = (speed * 0.98f) + (new Vector3(random.NextSingle() - 0.5f) * 0.002f);
            take[f, 0] = take[f - 1, 0] + speed;
        }

        var part = new MarkerTake(["A"], 60, frames - later);
        for (var f = 0; f < part.FrameCount; f++)
        {
            part[f, 0] = take[f + later, 0];
        }

        Assert.Equal(later, Comparison.Of(take, part, Laying.None).OffsetFrames);
    }

    [Fact]
    public void A_joint_that_is_turned_shows_in_degrees_at_that_joint()
    {
        var bent = Motion.Copy();
        var head = bent.Skeleton.IndexOf(BodyRole.Head);
        for (var f = 0; f < bent.FrameCount; f++)
        {
            bent.Rotations[(f * bent.Skeleton.Count) + head] *= Rotations.AboutAxis(0, 0.2);
        }

        var found = Comparison.Of(Motion, bent, Laying.None);
        Assert.Equal(0.2 * 180 / Math.PI, found.Joints.Single(j => j.Name == "Head").MeanDegrees!.Value, 0.05);
        Assert.True(found.Joints.Single(j => j.Name == "Chest").MeanDegrees < 0.05);
        Assert.False(found.Alike);
    }

    [Fact]
    public void Markers_are_compared_where_both_are_seen()
    {
        var (truth, seen) = (MarkerSimulator.TruthWithProps(Hop, 0), Acts.Labelled(Hop));
        var found = Comparison.Of(truth, seen, Laying.None);
        Assert.All(found.Joints, j => Assert.True(j.MeanDegrees is null && double.IsFinite(j.MeanMillimetres)));
        Assert.True(found.MeanMillimetres < 25);
        Assert.Throws<RefusedException>(() => Comparison.Of(truth, seen, Laying.Pelvis));
        var other = new MarkerTake(truth.Names, truth.FrameRate * 2, truth.FrameCount);
        Assert.Throws<RefusedException>(() => Comparison.Of(truth, other, Laying.None));
    }
}
