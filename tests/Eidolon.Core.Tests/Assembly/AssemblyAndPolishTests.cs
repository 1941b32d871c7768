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

    private static Motion Act(string scene) => SceneCatalog.Perform(scene, Performer, 1).Actors[0].Motion;

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
