using System.Numerics;
using Eidolon.Core.Assembly;
using Eidolon.Core.Polish;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Assembly;

public sealed class AssemblyAndPolishTests
{
    private static readonly Person Performer = new("Eskil", 1.82f, 1, 5);

    private static Motion Act(string scene) => Acts.Perform(scene, Performer, 1).Actors[0].Motion;

    [Fact]
    public void A_later_clip_meets_the_one_before()
    {
        var a = Act("gangplank-hop");
        var b = MotionEdits.Turn(Act("haul-rope"), Core.Geometry.Rotations.AboutAxis(1, 2));
        var flat = MotionEdits.Range(a, 0, 130);
        var baked = ClipJoiner.Join([new ClipMotion(flat), new ClipMotion(b)], 40);
        Assert.Equal(130 + b.FrameCount - 40, baked.Motion.FrameCount);
        var p = ForwardKinematics.WorldPositions(baked.Motion);
        var n = baked.Motion.Skeleton.Count;
        // No joint moves faster than a person through the overlap.
        for (var f = 80; f < 150; f++)
        {
            for (var j = 0; j < n; j++)
            {
                Assert.True((p[(f * n) + j] - p[((f - 1) * n) + j]).Length() * 120 < 6);
            }
        }

        Assert.True(baked.Overlaps[0].SlideMillimetres < 2, $"{baked.Overlaps[0].SlideMillimetres}");
        // Before the overlap nothing changes at all; its neighbourhood is only touched by the held feet.
        Assert.True(
            Enumerable
                .Range(0, 40 * n)
                .All(k => (p[k] - ForwardKinematics.WorldPositions(MotionEdits.Range(flat, 0, 40))[k]).Length() < 1e-5f)
        );
    }

    [Theory]
    [InlineData(2.0)]
    [InlineData(-0.7)]
    public void A_later_clip_is_turned_to_where_the_one_before_heads(double heading)
    {
        // The same walk cut in two, the second half facing elsewhere: joined it is the walk again.
        var whole = Act("lamp-walk");
        var first = MotionEdits.Range(whole, 0, 400);
        var second = MotionEdits.Turn(MotionEdits.Range(whole, 360, 700), Core.Geometry.Rotations.AboutAxis(1, heading));
        var baked = ClipJoiner.Join([new ClipMotion(first), new ClipMotion(second)], 40);
        Assert.Equal(Math.Abs(heading) * 180 / Math.PI, baked.Overlaps[0].TurnedDegrees, 0.5);
        var truth = ForwardKinematics.WorldPositions(whole);
        var mine = ForwardKinematics.WorldPositions(baked.Motion);
        // Feet are held through the overlap; all that does not hang from the legs is where it was.
        var n = whole.Skeleton.Count;
        int[] upper =
        [
            .. Enumerable
                .Range(0, n)
                .Where(j => whole.Skeleton[j].Role is { } r && BodyRoles.Stem(r) is not ("Thigh" or "Shin" or "Foot" or "Toes")),
        ];
        var worst = Enumerable.Range(0, 700).Max(f => upper.Max(j => (mine[(f * n) + j] - truth[(f * n) + j]).Length()));
        Assert.True(worst < 0.002, $"{worst * 1000:0.0} mm");
    }

    [Fact]
    public void An_overlap_goes_over_little_by_little()
    {
        // Two poses that differ by much: what the overlap itself adds to any joint is spread over all of its frames.
        var first = MotionEdits.Range(Act("gangplank-hop"), 0, 130);
        var second = Act("haul-rope");
        const int length = 40;
        var (motion, n) = (ClipJoiner.Join([new ClipMotion(first), new ClipMotion(second)], length).Motion, second.Skeleton.Count);
        // Legs are bent anew where feet are held.
        int[] upper =
        [
            .. Enumerable
                .Range(0, n)
                .Where(j =>
                    second.Skeleton[j].Role is { } r && BodyRoles.Section(r) is BodySection.Arm or BodySection.Hand or BodySection.Head
                ),
        ];
        float Turned(Motion m, int f, int j) => Core.Geometry.Rotations.Angle(m.RotationsAt(f - 1)[j], m.RotationsAt(f)[j]);
        foreach (var j in upper)
        {
            var own =
                Enumerable.Range(90, length).Max(f => Turned(first, f, j)) + Enumerable.Range(1, length).Max(f => Turned(second, f, j));
            var apart = Enumerable
                .Range(0, length)
                .Max(f => Core.Geometry.Rotations.Angle(first.RotationsAt(90 + f)[j], second.RotationsAt(f)[j]));
            for (var f = 90; f <= 130; f++)
            {
                // The ease is steepest in its middle: 1.875 times as steep as a straight line.
                Assert.True(Turned(motion, f, j) <= own + (2.2f * apart / length), $"{second.Skeleton[j].Name} at {f}");
            }
        }
    }

    [Fact]
    public void A_layer_lets_go_at_its_release_keys()
    {
        var motion = Act("lamp-walk");
        var layer = new PoseLayer(
            "UpperArmR",
            0.5f,
            [new(100, default, true), new(140, new Vector3(0, 0, 40)), new(200, new Vector3(0, 0, 30)), new(260, default, true)]
        );
        var result = layer.Apply(motion);
        var joint = motion.Skeleton.IndexOf(BodyRole.UpperArmR);
        for (var f = 0; f < motion.FrameCount; f++)
        {
            var angle = Core.Geometry.Rotations.Angle(motion.RotationsAt(f)[joint], result.RotationsAt(f)[joint]) * 180 / MathF.PI;
            if (f is <= 100 or >= 260)
            {
                Assert.Equal(motion.RotationsAt(f)[joint], result.RotationsAt(f)[joint]);
            }
            else
            {
                Assert.InRange(angle, 0, 20.01f);
            }
        }

        Assert.Equal(20, Core.Geometry.Rotations.Angle(motion.RotationsAt(140)[joint], result.RotationsAt(140)[joint]) * 180 / MathF.PI, 1);
    }
}
