using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Assembly;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Assembly;

/// <summary>What a person says of one clip: where it is put, how it comes in, what becomes of its jolt.</summary>
public sealed class ClipPlayTests
{
    private static readonly Motion Walk = Act("lamp-walk"),
        Haul = Act("haul-rope");

    private static Motion Act(string scene) => Acts.Perform(scene, HarbourCast.Ines, 1, 60).Actors[0].Motion;

    private static BakedMotion Joined(ClipPlay play, ClipPlay? then = null) =>
        ClipJoiner.Join([
            new(new ClipMotion(Walk).Range(0, 300), new ClipPlay(0, Meet.Best)),
            new(new ClipMotion(Haul).Range(100, 400), play),
            .. then is null ? Array.Empty<PlannedClip>() : [new(new ClipMotion(Walk).Range(200, 400), then)],
        ]);

    private static Vector3 At(Motion motion, int frame, BodyRole role)
    {
        var (turns, places) = (new Quaternion[motion.Skeleton.Count], new Vector3[motion.Skeleton.Count]);
        ForwardKinematics.World(motion, frame, turns, places);
        return places[motion.Skeleton.IndexOf(role)];
    }

    private static float Farthest(Motion a, Motion b, int start, int end)
    {
        var (pa, pb) = (ForwardKinematics.WorldPositions(a), ForwardKinematics.WorldPositions(b));
        var n = a.Skeleton.Count;
        return Enumerable.Range(start * n, (end - start) * n).Max(k => (pa[k] - pb[k]).Length());
    }

    [Theory]
    [InlineData(0)]
    [InlineData(3)]
    public void A_cut_that_jolts_is_smoothed_over_the_frames_that_were_asked_for(int overlap)
    {
        var hard = Joined(new ClipPlay(overlap, Meet.Best));
        var soft = Joined(new ClipPlay(overlap, Meet.Best) { Smooth = 18 });
        var (was, now) = (hard.Overlaps[0], soft.Overlaps[0]);
        Assert.True(was.AccelerationPeakRatio > 2, $"{was.AccelerationPeakRatio}");
        Assert.Equal(was.AccelerationPeakRatio, now.AccelerationPeakRatioBefore, 6);
        Assert.InRange(now.AccelerationPeakRatio, 0, 1.2);
        Assert.InRange(now.SlideMillimetres, 0, 2);
        Assert.Contains(was.Warnings(), w => w.Contains("jolt", StringComparison.Ordinal));
        Assert.DoesNotContain(now.Warnings(), w => w.Contains("jolt", StringComparison.Ordinal));
        // Elsewhere not a frame is another one, and there are as many.
        var (start, end) = now.Smoothed!.Value;
        Assert.Equal((was.Start - 9, was.End + 9), (start, end));
        Assert.Equal(hard.Motion.FrameCount, soft.Motion.FrameCount);
        Assert.Equal(0, Farthest(hard.Motion, soft.Motion, 0, start));
        Assert.Equal(0, Farthest(hard.Motion, soft.Motion, end + 1, hard.Motion.FrameCount));
        Assert.True(Farthest(hard.Motion, soft.Motion, start, end + 1) > .02f);
    }

    [Fact]
    public void What_does_not_jolt_is_left_alone()
    {
        var (plain, asked) = (Joined(new ClipPlay(30, Meet.Best)), Joined(new ClipPlay(30, Meet.Best) { Smooth = 24 }));
        Assert.True(plain.Overlaps[0].AccelerationPeakRatio < 1);
        Assert.Null(asked.Overlaps[0].Smoothed);
        Assert.True(double.IsNaN(asked.Overlaps[0].AccelerationPeakRatioBefore));
        Assert.Equal(plain.Motion.Rotations, asked.Motion.Rotations);
    }

    [Fact]
    public void A_clip_that_is_put_elsewhere_takes_the_later_ones_along()
    {
        var play = new ClipPlay(20, Meet.Best);
        var there = Joined(play, play);
        var put = Joined(play with { Nudge = new ClipNudge(.3, -.2, 0, false) }, play);
        foreach (var frame in new[] { 340, 500, there.Motion.FrameCount - 1 })
        {
            var by = At(put.Motion, frame, BodyRole.Pelvis) - At(there.Motion, frame, BodyRole.Pelvis);
            Assert.InRange((by - new Vector3(.3f, 0, -.2f)).Length(), 0, 1e-3f);
        }

        Assert.Equal(0, Farthest(put.Motion, there.Motion, 0, 275));
    }

    [Fact]
    public void Turned_by_hand_it_turns_about_where_it_meets_and_its_own_axes_turn_along()
    {
        var play = new ClipPlay(0, new Meet(BodyRole.Pelvis, MeetMoment.Start));
        var there = Joined(play);
        var turned = Joined(play with { Nudge = new ClipNudge(0, 0, 90, false) });
        Assert.InRange((At(turned.Motion, 300, BodyRole.Pelvis) - At(there.Motion, 300, BodyRole.Pelvis)).Length(), 0, 1e-3f);
        Vector3 Left(Motion m) => (At(m, 300, BodyRole.ThighL) - At(m, 300, BodyRole.ThighR)) with { Y = 0 };
        var (a, b) = (Vector3.Normalize(Left(there.Motion)), Vector3.Normalize(Left(turned.Motion)));
        Assert.InRange((Vector3.Transform(a, Rotations.AboutAxis(1, Math.PI / 2)) - b).Length(), 0, 1e-3f);
        // Half a metre ahead of itself, after the turn: across its left.
        var ahead = Joined(play with { Nudge = new ClipNudge(0, .5, 90, true) });
        var by = At(ahead.Motion, 300, BodyRole.Pelvis) - At(turned.Motion, 300, BodyRole.Pelvis);
        Assert.Equal(.5f, by.Length(), 3);
        Assert.True(Vector3.Dot(by, Vector3.Cross(b, Vector3.UnitY)) > .47f);
    }

    [Fact]
    public void A_part_goes_over_in_its_share_of_the_overlap()
    {
        var usual = Joined(new ClipPlay(40, Meet.Best));
        var late = Joined(
            new ClipPlay(40, Meet.Best)
            {
                Shape = new OverlapShape(BlendShape.Smooth, new Dictionary<BlendPart, (float, float)> { [BlendPart.ArmR] = (.5f, 1) }),
            }
        );
        var s = Walk.Skeleton;
        var (right, left) = (s.IndexOf(BodyRole.UpperArmR), s.IndexOf(BodyRole.UpperArmL));
        var o = late.Overlaps[0];
        // Half way through, the right arm is the walk's still, the left one as far as ever.
        for (var f = o.Start; f < o.Start + 20; f++)
        {
            Assert.InRange(Rotations.Angle(Walk.RotationsAt(f)[right], late.Motion.RotationsAt(f)[right]), 0, 1e-3f);
            Assert.InRange(Rotations.Angle(usual.Motion.RotationsAt(f)[left], late.Motion.RotationsAt(f)[left]), 0, 1e-3f);
        }

        Assert.True(Rotations.Angle(Walk.RotationsAt(o.Start + 19)[right], usual.Motion.RotationsAt(o.Start + 19)[right]) > .05f);
    }

    [Theory]
    [InlineData(BlendShape.Smooth, .5f)]
    [InlineData(BlendShape.Even, .5f)]
    [InlineData(BlendShape.Early, .795f)]
    [InlineData(BlendShape.Late, .205f)]
    public void A_shape_says_how_far_it_is_half_way(BlendShape shape, float half)
    {
        var of = OverlapShape.Usual with { Shape = shape };
        Assert.InRange(of.Weight(BlendPart.Trunk, .5f), half - .002f, half + .002f);
        Assert.Equal((0f, 1f), (of.Weight(BlendPart.Head, 0), of.Weight(BlendPart.Head, 1)));
    }

    [Fact]
    public void Clips_can_meet_at_any_frame_of_their_overlap()
    {
        var baked = Joined(new ClipPlay(30, new Meet(BodyRole.Pelvis) { Frame = 7 }));
        var o = baked.Overlaps[0];
        // Where they meet the later clip's pelvis is the earlier one's; there the blend changes nothing over the floor.
        var off = At(baked.Motion, o.Start + 7, BodyRole.Pelvis) - At(Walk, o.Start + 7, BodyRole.Pelvis);
        Assert.InRange((off with { Y = 0 }).Length(), 0, 1e-3f);
        Assert.Equal(29, new Meet { Frame = 99 }.At(30));
    }

    [Fact]
    public void A_joint_that_is_half_a_turn_off_goes_round_one_way()
    {
        // The later clip's arm is 170° to 190° round from the earlier one's: chosen frame by frame, it would jump to the other way in the middle.
        var (a, b) = (MotionEdits.Range(Walk, 0, 60), MotionEdits.Range(Walk, 0, 60));
        var arm = Walk.Skeleton.IndexOf(BodyRole.UpperArmL);
        for (var f = 0; f < 60; f++)
        {
            a.RotationsAt(f)[arm] = Walk.RotationsAt(0)[arm];
            b.RotationsAt(f)[arm] =
                Walk.RotationsAt(0)[arm] * Quaternion.CreateFromAxisAngle(Vector3.UnitX, (170 + (20 * f / 40f)) * MathF.PI / 180);
        }

        var baked = ClipJoiner.Join([
            new(new ClipMotion(a), new ClipPlay(0, Meet.Best)),
            new(new ClipMotion(b), new ClipPlay(40, Meet.Best)),
        ]);
        var o = baked.Overlaps[0];
        var steps = Enumerable
            .Range(o.Start + 1, o.End - o.Start)
            .Max(f => Rotations.Angle(baked.Motion.RotationsAt(f - 1)[arm], baked.Motion.RotationsAt(f)[arm]));
        Assert.InRange(steps * 180 / MathF.PI, 0, 15);
    }

    [Fact]
    public void One_pose_laid_on_another_is_never_turned_back_to_front()
    {
        // Upright, with the arms of somebody who faces the other way: all joints together are nearer when the body is turned round.
        var still = MotionEdits.Range(Walk, 0, 1);
        var other = still.Copy();
        var s = still.Skeleton;
        foreach (var role in new[] { BodyRole.UpperArmL, BodyRole.UpperArmR })
        {
            var forward = Quaternion.CreateFromAxisAngle(Vector3.UnitX, -1.4f);
            still.RotationsAt(0)[s.IndexOf(role)] = Quaternion.Normalize(forward * still.RotationsAt(0)[s.IndexOf(role)]);
            other.RotationsAt(0)[s.IndexOf(role)] = Quaternion.Normalize(
                Quaternion.Inverse(forward) * other.RotationsAt(0)[s.IndexOf(role)]
            );
        }

        var placed = ClipPlacement.For(still, 0, other, 1, Meet.Best, null);
        Assert.InRange(Rotations.Log(placed.Turn).Length(), 0, 1.1f);
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void A_clip_that_runs_on_slows_down_and_its_standing_foot_stays(bool after)
    {
        var edgeOfClip = after ? 59 : 0;
        var (clip, feet) = Enumerable
            .Range(100, 40)
            .Select(f => MotionEdits.Range(Walk, f, f + 60))
            .Select(c => (Clip: c, Feet: PlantedFeet.Of(new ClipMotion(c))))
            .First(c => c.Feet.Of('L')[edgeOfClip] != c.Feet.Of('R')[edgeOfClip]);
        var longer = after ? ClipExtension.After(clip, 12, feet) : ClipExtension.Before(clip, 12, feet);
        Assert.Equal(72, longer.FrameCount);
        var (edge, on) = after ? (59, 1) : (12, -1);
        var (own, first, last) = (
            At(longer, edge, BodyRole.Pelvis) - At(longer, edge - on, BodyRole.Pelvis),
            At(longer, edge + on, BodyRole.Pelvis) - At(longer, edge, BodyRole.Pelvis),
            At(longer, edge + (12 * on), BodyRole.Pelvis) - At(longer, edge + (11 * on), BodyRole.Pelvis)
        );
        Assert.InRange(first.Length(), own.Length() * .6f, own.Length());
        Assert.InRange(last.Length(), 0, own.Length() * .2f);
        Assert.True(Vector3.Dot(first, own) > 0);
        foreach (var side in "LR".Where(side => feet.Of(side)[edgeOfClip]))
        {
            var foot = side == 'L' ? BodyRole.FootL : BodyRole.FootR;
            // As far as the leg reaches while the body still moves on.
            Assert.InRange((At(longer, edge + (8 * on), foot) - At(longer, edge, foot)).Length(), 0, .004f);
        }
    }

    [Theory]
    [InlineData("{ \"smooth\": -3 }", "clips[0].smooth")]
    [InlineData("{ \"shape\": \"wobbly\" }", "clips[0].shape")]
    [InlineData("{ \"parts\": { \"tail\": [0, 1] } }", "clips[0].parts.tail")]
    [InlineData("{ \"parts\": { \"head\": [0.6, 0.5] } }", "clips[0].parts.head")]
    [InlineData("{ \"moved\": { \"x\": 5000 } }", "clips[0].moved.x")]
    [InlineData("{ \"moved\": { \"axes\": \"camera\" } }", "clips[0].moved.axes")]
    [InlineData("{ \"meet\": { \"moment\": -1 } }", "clips[0].meet.moment")]
    public void What_a_clip_cannot_say_is_refused_with_its_place(string clip, string place)
    {
        var refused = Assert.Throws<InvalidInputException>(() =>
            AssemblyPlanJson.PlayOf((JsonObject)JsonNode.Parse(clip)!, "clips[0]", "plan.json", 36)
        );
        Assert.Equal(place, refused.Place);
    }

    [Fact]
    public void What_a_clip_says_is_read()
    {
        var said = (JsonObject)
            JsonNode.Parse(
                """
                { "smooth": 24, "shape": "late", "parts": { "armL": [0, 0.5] }, "moved": { "x": 0.5, "turn": 15, "axes": "own" }, "meet": { "moment": 12 } }
                """
            )!;
        var play = AssemblyPlanJson.PlayOf(said, "clips[0]", "plan.json", 36);
        Assert.Equal((24, BlendShape.Late, 12), (play.Smooth, play.Shape.Shape, play.Meet.Frame));
        Assert.Equal((0f, .5f), play.Shape.Parts[BlendPart.ArmL]);
        Assert.Equal(new ClipNudge(.5, 0, 15, true), play.Nudge);
    }
}
