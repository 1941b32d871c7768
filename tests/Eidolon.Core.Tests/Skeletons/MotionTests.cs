using System.Numerics;
using CsCheck;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Tests.Skeletons;

public sealed class MotionTests
{
    [Fact]
    public void Level_rest_moves_no_joint_and_makes_rest_all_zero()
    {
        for (var seed = 0; seed < 8; seed++)
        {
            var motion = Samples.Random(seed);
            var level = MotionEdits.LevelRest(motion);
            Assert.True(Samples.Worst(motion, level) < 0.01);
            Assert.All(level.Skeleton.Joints, j => Assert.Equal(Quaternion.Identity, j.RestRotation));
            Assert.True(motion.Skeleton.RestPositions.Zip(level.Skeleton.RestPositions).All(p => (p.First - p.Second).Length() < 1e-5f));
        }
    }

    [Fact]
    public void Resampling_keeps_key_frames_and_ends_on_the_nearest_one()
    {
        var motion = Samples.Random(3, 5, 121);
        var half = MotionEdits.Resample(motion, 60);
        Assert.Equal(61, half.FrameCount);
        for (var f = 0; f < 61; f++)
        {
            Assert.True(Rotations.Angle(motion.RotationsAt(2 * f)[2], half.RotationsAt(f)[2]) < 1e-4f);
        }

        Assert.Equal(336, MotionEdits.Resample(Samples.Random(1, 2, 1342), 30).FrameCount);
    }

    [Fact]
    public void A_range_takes_the_frames_it_says_with_their_numbers()
    {
        var motion = Samples.Random(2, 4, 50);
        var part = MotionEdits.Range(motion, 10, 30, 5);
        Assert.Equal((4, 10, 24.0), (part.FrameCount, part.FirstFrame, part.FrameRate));
        Assert.Equal(motion.RotationsAt(25).ToArray(), part.RotationsAt(3).ToArray());
    }

    [Fact]
    public void In_place_keeps_height_and_turn()
    {
        var motion = Samples.Random(5);
        var still = MotionEdits.InPlace(motion);
        for (var f = 0; f < motion.FrameCount; f++)
        {
            Assert.Equal(motion.TranslationsAt(0)[0].X, still.TranslationsAt(f)[0].X);
            Assert.Equal(motion.TranslationsAt(f)[0].Y, still.TranslationsAt(f)[0].Y);
            Assert.Equal(motion.RotationsAt(f)[0], still.RotationsAt(f)[0]);
        }
    }

    [Fact]
    public void A_turned_scene_is_turned_about_the_origin()
    {
        var motion = Samples.Random(6);
        var turn = Rotations.AboutAxis(1, 1.1);
        var a = ForwardKinematics.WorldPositions(motion);
        var b = ForwardKinematics.WorldPositions(MotionEdits.Turn(motion, turn));
        Assert.True(a.Zip(b).All(p => (Vector3.Transform(p.First, turn) - p.Second).Length() < 1e-4f));
    }

    [Fact]
    public void A_skeleton_refuses_children_before_parents_and_names_used_twice()
    {
        Assert.Throws<ArgumentException>(() => new Skeleton([new Joint("a", 1, default), new Joint("b", -1, default)]));
        Assert.Throws<ArgumentException>(() => new Skeleton([new Joint("a", -1, default), new Joint("a", 0, default)]));
        Assert.Throws<ArgumentException>(() => new Skeleton([]));
    }

    [Fact]
    public void Roles_have_mirrors_and_parents_on_their_own_side()
    {
        foreach (var role in Enum.GetValues<BodyRole>())
        {
            Assert.Equal(role, BodyRoles.Mirror(BodyRoles.Mirror(role)));
            var side = BodyRoles.Side(role);
            Assert.Equal(side == 'C', BodyRoles.Mirror(role) == role);
            if (BodyRoles.Parent(role) is { } parent)
            {
                Assert.True(BodyRoles.Side(parent) == 'C' || BodyRoles.Side(parent) == side, $"{role} under {parent}");
            }
            else
            {
                Assert.Equal(BodyRole.Root, role);
            }
        }

        Assert.Equal('L', BodyRoles.Side(BodyRole.ThumbL2));
        Assert.Equal('C', BodyRoles.Side(BodyRole.Pelvis));
    }

    [Fact]
    public void Two_bones_reach_what_they_can_and_stay_as_long_as_they_are() =>
        Gen.Select(Gen.Float[0.1f, 0.6f], Gen.Float[0.1f, 0.6f], Gen.Float[-1, 1], Gen.Float[-1, 1], Gen.Float[-1, 1])
            .Sample(
                (l1, l2, x, y, z) =>
                {
                    var goal = new Vector3(x, y, z);
                    if (goal.Length() < 0.02f)
                    {
                        return;
                    }

                    var middle = TwoBoneIk.Middle(Vector3.Zero, goal, new Vector3(0.3f, 0.2f, 1), l1, l2, out var end);
                    Assert.Equal(l1, middle.Length(), 1e-3f);
                    Assert.Equal(l2, (end - middle).Length(), 2e-3f);
                    var within = goal.Length() < l1 + l2 - 0.01f && goal.Length() > MathF.Abs(l1 - l2) + 0.01f;
                    Assert.True(!within || (end - goal).Length() < 1e-4f);
                }
            );

    [Theory]
    [InlineData("Ines:KneeInL", "Ines", "KneeInL")]
    [InlineData("KneeInL", null, "KneeInL")]
    [InlineData("stage:Ines:KneeInL", "stage:Ines", "KneeInL")]
    public void Names_split_at_the_last_colon(string name, string? performer, string marker) =>
        Assert.Equal((performer, marker), MarkerNames.Split(name));

    [Theory]
    [InlineData("*12", true)]
    [InlineData("Dot_001", true)]
    [InlineData("", true)]
    [InlineData("DotL", false)]
    [InlineData("Crown", false)]
    public void Nameless_dots_are_told_from_names(string name, bool unnamed) => Assert.Equal(unnamed, MarkerNames.IsUnnamed(name));

    [Fact]
    public void One_performer_is_picked_out_of_several()
    {
        var take = new MarkerTake(["Ines:A", "Tobi:A", "Ines:B"], 120, 1, [new(1), new(2), new(3)]);
        Assert.Equal(["A", "B"], MarkerNames.Subject(take, "Ines").Names);
        Assert.Equal(2, MarkerNames.Subject(take, "Tobi")[0, 0].X);
        Assert.Contains(
            "say which",
            Assert.Throws<RefusedException>(() => MarkerNames.Subject(take, null)).Message,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "Ines, Tobi",
            Assert.Throws<RefusedException>(() => MarkerNames.Subject(take, "Ola")).Message,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void Gaps_are_counted_with_both_ends()
    {
        var take = new MarkerTake(
            ["A"],
            120,
            8,
            [MarkerTake.Hidden, new(1), new(1), MarkerTake.Hidden, MarkerTake.Hidden, new(1), new(1), MarkerTake.Hidden]
        );
        Assert.Equal([new Gap(0, 0), new Gap(3, 4), new Gap(7, 7)], take.Gaps(0));
        Assert.Equal(4, take.VisibleFrames(0));
        Assert.Equal(60, MarkerEdits.Resample(new MarkerTake(["A"], 120, 120, [.. Enumerable.Repeat(Vector3.One, 120)]), 60).FrameCount);
    }
}
