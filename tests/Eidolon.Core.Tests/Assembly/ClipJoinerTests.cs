using System.Numerics;
using Eidolon.Core.Assembly;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Geometry;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Assembly;

/// <summary>Clips laid on one another: where they meet, what stays as it was, how feet and joints go through the overlap.</summary>
public sealed class ClipJoinerTests
{
    private static readonly Motion Walk = Act("lamp-walk"),
        Hop = Act("gangplank-hop"),
        Haul = Act("haul-rope");

    private static Motion Act(string scene) => Acts.Perform(scene, HarbourCast.Ines, 1, 60).Actors[0].Motion;

    private static PlannedClip Of(Motion motion, int? overlap = 18, Meet? meet = null) =>
        new(new ClipMotion(motion), new ClipPlay(overlap, meet ?? Meet.Best));

    private static Motion Elsewhere(Motion motion, double radians, Vector3 move) =>
        new ClipPlacement(Rotations.AboutAxis(1, radians), move).Lay(motion);

    private static (Quaternion[] Turns, Vector3[] Places) At(Motion motion, int frame)
    {
        var (turns, places) = (new Quaternion[motion.Skeleton.Count], new Vector3[motion.Skeleton.Count]);
        ForwardKinematics.World(motion, frame, turns, places);
        return (turns, places);
    }

    [Theory]
    [InlineData(null)]
    [InlineData(18)]
    [InlineData(1)]
    [InlineData(0)]
    public void Outside_an_overlap_every_frame_is_its_sources(int? overlap)
    {
        var later = Elsewhere(Hop, 2.1, new Vector3(4, 0, -3));
        var baked = ClipJoiner.Join([Of(Walk), Of(later, overlap)]);
        var o = baked.Overlaps[0];
        for (var f = 0; f < o.Start; f += 7)
        {
            Assert.Equal(Walk.RotationsAt(f).ToArray(), baked.Motion.RotationsAt(f).ToArray());
        }

        // One turn about the vertical and one move over the floor take all the rest of the later clip to where it is.
        var skip = later.FrameCount - (baked.Motion.FrameCount - o.End - 1);
        var (r0, p0) = At(later, skip);
        var (r1, p1) = At(baked.Motion, o.End + 1);
        var turn = Quaternion.Normalize(r1[0] * Quaternion.Conjugate(r0[0]));
        Assert.InRange(Vector3.Transform(Vector3.UnitY, turn).Y, .999999f, 1.000001f);
        var move = p1[0] - Vector3.Transform(p0[0], turn);
        Assert.InRange(move.Y, -1e-5f, 1e-5f);
        for (var f = skip; f < later.FrameCount; f += 11)
        {
            var (_, source) = At(later, f);
            var (_, here) = At(baked.Motion, o.End + 1 + f - skip);
            Assert.All(source.Zip(here), p => Assert.InRange((Vector3.Transform(p.First, turn) + move - p.Second).Length(), 0, 1e-4f));
        }

        // What is said to be used of each clip is what is there.
        var (used, rest) = (baked.Cuts[0], baked.Cuts[1]);
        Assert.Equal((0, later.FrameCount), (used.Start, rest.End));
        Assert.Equal(o.End + 1, used.End);
        Assert.Equal(skip - (o.End - o.Start + 1), rest.Start);
        Assert.Equal(overlap is null, used.End < Walk.FrameCount);
    }

    [Fact]
    public void Planted_feet_hold_and_nothing_jolts_through_proposed_overlaps()
    {
        foreach (var (a, b) in new[] { (Walk, Hop), (Hop, Walk), (Haul, Walk), (Walk, Haul), (Hop, Haul), (Haul, Hop) })
        {
            var o = ClipJoiner.Join([Of(a), Of(Elsewhere(b, -1.3, new Vector3(2, 0, 9)), null)]).Overlaps[0];
            Assert.InRange(o.SlideMillimetres, 0, 2);
            Assert.InRange(o.AccelerationPeakRatio, 0, 1.5);
        }
    }

    [Fact]
    public void A_foot_that_stands_apart_in_both_takes_a_step_and_does_not_slide()
    {
        // The same stand, but with the right foot set 20 cm aside in the later clip.
        var still = Still(Walk, 0);
        var foot = still.Skeleton.IndexOf(BodyRole.FootR);
        var aside = Moved(still, _ => new Vector3(-.12f, 0, .1f));
        var baked = ClipJoiner.Join([Of(still), Of(aside, 30)]);
        var o = baked.Overlaps[0];
        Assert.Equal("R", o.Steps);
        Assert.InRange(o.SlideMillimetres, 0, 2);
        Assert.Contains(o.Warnings(), w => w.Contains("right foot", StringComparison.Ordinal));
        var heights = Enumerable.Range(o.Start, 30).Select(f => At(baked.Motion, f).Places[foot].Y).ToList();
        Assert.InRange(heights.Max() - heights[0], .04f, .1f);
        // The left one has not moved at all.
        var left = still.Skeleton.IndexOf(BodyRole.FootL);
        var stood = At(still, 0).Places[left];
        Assert.All(Enumerable.Range(o.Start, 30), f => Assert.InRange((At(baked.Motion, f).Places[left] - stood).Length(), 0, 8e-3f));
    }

    [Fact]
    public void A_foot_stays_with_the_earlier_clip_while_it_stands_there_and_with_the_later_one_once_it_lands()
    {
        const int n = 60;
        bool[] stands = [.. Enumerable.Range(0, n).Select(k => k < 18)],
            lands = [.. Enumerable.Range(0, n).Select(k => k >= 46)];
        Vector3[] a = [.. Enumerable.Range(0, n).Select(k => new Vector3(0, 0, k < 18 ? 0 : (k - 17) * .02f))],
            b = [.. Enumerable.Range(0, n).Select(k => new Vector3(.05f, 0, k >= 46 ? .6f : .6f - ((46 - k) * .02f)))];
        var path = new FootPath(a, b, a, b, stands, lands, 120);
        Assert.False(path.Stepped);
        Assert.All(Enumerable.Range(0, 18), k => Assert.Equal(0, path.Share(k)));
        Assert.All(Enumerable.Range(46, n - 46), k => Assert.Equal(1, path.Share(k)));
        Assert.InRange(path.Share(32), .3f, .7f);
    }

    [Fact]
    public void Feet_of_the_result_stand_where_their_clips_have_them()
    {
        // Lifted at frame 50 of the one, set down 30 cm ahead at frame 26 of the other; they overlap by forty frames.
        var still = Still(Walk, 0);
        var foot = still.Skeleton.IndexOf(BodyRole.FootR);
        var (a, b) = (Moved(still, f => f < 60 ? Vector3.Zero : Up(f - 60)), Moved(still, f => f >= 26 ? Ahead : Ahead + Up(26 - f)));
        var baked = ClipJoiner.Join([Of(a), Of(b, 40)]);
        Assert.Equal(string.Empty, baked.Overlaps[0].Steps);
        Vector3 In(Motion m, int f) => At(m, f).Places[foot];
        Assert.All(Enumerable.Range(50, 8), f => Assert.InRange((In(baked.Motion, f) - In(a, f)).Length(), 0, 2e-3f));
        Assert.All(Enumerable.Range(78, 12), f => Assert.InRange((In(baked.Motion, f) - In(baked.Motion, 95)).Length(), 0, 2e-3f));
    }

    private static readonly Vector3 Ahead = new(0, 0, .15f);

    private static Vector3 Up(int frames) => new(0, MathF.Min(.12f, frames * .012f), 0);

    /// <summary>The right foot moved by so much at each frame, the leg bent after it.</summary>
    private static Motion Moved(Motion still, Func<int, Vector3> by)
    {
        var result = still.Copy();
        var limb = new LimbReach(still.Skeleton, BodyRole.ThighR, BodyRole.ShinR, BodyRole.FootR);
        var (upper, lower, foot) = limb.Joints;
        for (var f = 0; f < still.FrameCount; f++)
        {
            var (turns, places) = At(still, f);
            limb.Reach(turns, places, places[foot] + by(f));
            foreach (var j in new[] { upper, lower, foot })
            {
                result.RotationsAt(f)[j] = Quaternion.Conjugate(turns[still.Skeleton.Parents[j]]) * turns[j];
            }
        }

        return result;
    }

    private static Motion Still(Motion motion, int frame)
    {
        var one = MotionEdits.Range(motion, frame, frame + 1);
        var result = new Motion(motion.Skeleton, motion.FrameRate, 90);
        for (var f = 0; f < 90; f++)
        {
            one.Rotations.CopyTo(result.Rotations, f * one.Rotations.Length);
            one.Translations.CopyTo(result.Translations, f * one.Translations.Length);
        }

        return result;
    }

    [Theory]
    [InlineData(MeetMoment.Start, 0)]
    [InlineData(MeetMoment.Middle, 10)]
    [InlineData(MeetMoment.End, 19)]
    public void Clips_meet_at_the_asked_joint_and_moment(MeetMoment moment, int frame)
    {
        foreach (var role in new[] { BodyRole.Pelvis, BodyRole.FootL, BodyRole.HandR })
        {
            var later = Elsewhere(Hop, 1, new Vector3(3, .2f, 1));
            var (a, b) = (MotionEdits.Range(Walk, 100, 200), MotionEdits.Range(later, 20, 200));
            var placed = ClipPlacement.For(a, 80, b, 20, new Meet(role, moment), null);
            var j = a.Skeleton.IndexOf(role);
            var ((ra, pa), (rb, pb)) = (At(a, 80 + frame), At(b, frame));
            var off = placed.Of(pb[j]) - pa[j];
            Assert.InRange(new Vector2(off.X, off.Z).Length(), 0, 1e-4f);
            // Its height stays its own.
            Assert.Equal(pb[j].Y, placed.Of(pb[j]).Y, 4);
            Assert.InRange(Vector3.Transform(Vector3.UnitY, placed.Turn).Y, .99999f, 1.00001f);
            if (role == BodyRole.Pelvis)
            {
                var left = Rotations.Twist(Quaternion.Normalize(ra[j] * Quaternion.Conjugate(placed.Turn * rb[j])), Vector3.UnitY);
                Assert.InRange(Rotations.Log(left).Length(), 0, 1e-3f);
            }
        }
    }

    [Fact]
    public void Place_and_turn_are_taken_as_far_as_asked()
    {
        var later = Elsewhere(Hop, 1, new Vector3(3, .2f, 1));
        var j = later.Skeleton.IndexOf(BodyRole.Pelvis);
        ClipPlacement Placed(MeetPlace place, MeetTurn turn) =>
            ClipPlacement.For(Walk, 100, later, 20, new Meet(BodyRole.Pelvis, MeetMoment.Start, place, turn), null);
        var ((ra, pa), (rb, pb)) = (At(Walk, 100), At(later, 0));
        Assert.InRange((Placed(MeetPlace.Full, MeetTurn.Heading).Of(pb[j]) - pa[j]).Length(), 0, 1e-4f);
        Assert.Equal(ClipPlacement.None, Placed(MeetPlace.None, MeetTurn.None));
        var turned = Placed(MeetPlace.None, MeetTurn.Heading);
        Assert.InRange((turned.Of(pb[j]) - pb[j]).Length(), 0, 1e-4f);
        Assert.True(Rotations.Log(turned.Turn).Length() > .1f);
        Assert.Equal(Quaternion.Identity, Placed(MeetPlace.Floor, MeetTurn.None).Turn);
        Assert.InRange(Rotations.Angle(Placed(MeetPlace.Floor, MeetTurn.Full).Turn * rb[j], ra[j]), 0, 1e-3f);
        // A full turn that tilts the clip is told.
        var leaning = new ClipPlacement(Quaternion.CreateFromAxisAngle(Vector3.UnitX, .3f), Vector3.Zero).Lay(Hop);
        var baked = ClipJoiner.Join([Of(Walk), Of(leaning, 18, new Meet(BodyRole.Pelvis, Turn: MeetTurn.Full))]);
        Assert.Contains(baked.Overlaps[0].Warnings(), w => w.Contains("tilts", StringComparison.Ordinal));
    }

    [Fact]
    public void A_rig_whose_pelvis_goes_under_a_root_goes_straight_through_an_overlap()
    {
        var file = HarbourCharacters.Build("Lamplighter");
        var binding = GltfReader.GltfBindingOf(GltfReader.Open(file, "l.glb"), "l.glb");
        var skeleton = RoleFinder.Assign(binding.Skeleton, null, "l.glb");
        var played = Retargeter.Retarget(Walk, skeleton, new RetargetSetup()).Motion;
        // The later clip far from its root and turned about it: its pelvis must not swing round.
        var (a, b) = (MotionEdits.Range(played, 0, 300), Elsewhere(MotionEdits.Range(played, 282, 500), 2.5, new Vector3(6, 0, 2)));
        var baked = ClipJoiner.Join([Of(a), Of(b, 18)]);
        var pelvis = skeleton.IndexOf(BodyRole.Pelvis);
        for (var f = 280; f < 305; f++)
        {
            Assert.InRange((At(baked.Motion, f).Places[pelvis] - At(played, f).Places[pelvis]).Length(), 0, .003f);
        }
    }

    [Fact]
    public void Clips_repeat_turn_round_go_faster_and_are_mirrored()
    {
        var part = MotionEdits.Range(Walk, 100, 220);
        PlannedClip With(Func<ClipPlay, ClipPlay> play) => new(new ClipMotion(part), play(new ClipPlay(0, Meet.Best)));
        Assert.Equal(60, With(p => p with { Speed = 2 }).Played().Motion.FrameCount, 1.0);
        Assert.Equal(239, With(p => p with { Speed = .5 }).Played().Motion.FrameCount, 1.0);
        var back = With(p => p with { Reverse = true }).Played().Motion;
        Assert.Equal(part.RotationsAt(0).ToArray(), back.RotationsAt(119).ToArray());

        var mirrored = With(p => p with { Mirror = true }).Played().Motion;
        var (l, r) = (part.Skeleton.IndexOf(BodyRole.HandL), part.Skeleton.IndexOf(BodyRole.HandR));
        for (var f = 0; f < 120; f += 10)
        {
            var (was, now) = (At(part, f).Places, At(mirrored, f).Places);
            // Her sides differ by millimetres, so the mirrored hand does too.
            Assert.InRange((was[r] * new Vector3(-1, 1, 1) - now[l]).Length(), 0, .02f);
            Assert.InRange((was[l] * new Vector3(-1, 1, 1) - now[r]).Length(), 0, .02f);
        }

        var twice = MotionMirror.Mirror(mirrored);
        Assert.InRange(Samples.Worst(part, twice), 0, 2e-3);

        // Something that is no cycle blends into itself.
        var repeated = ClipJoiner.Join([With(p => p with { Repeat = 3 })]);
        Assert.Equal(2, repeated.Overlaps.Count);
        Assert.Equal(360 - (2 * 18), repeated.Motion.FrameCount);
        // A cycle shares one frame with itself.
        var (start, end, apart) = LoopFinder.Find(Walk);
        var cycle = LoopMaker.Make(Walk, start, end, apart, 1, false).Motion;
        var looped = ClipJoiner.Join([new(new ClipMotion(cycle), new ClipPlay(0, Meet.Best) { Repeat = 4 })]);
        Assert.Equal(((cycle.FrameCount - 1) * 4) + 1, looped.Motion.FrameCount);
        Assert.InRange(Samples.Worst(LoopMaker.Make(Walk, start, end, apart, 4, false).Motion, looped.Motion), 0, .005);
    }

    [Fact]
    public void Faces_go_over_too_and_many_clips_keep_their_order()
    {
        Motion Faced(Motion motion, string name, float value) =>
            new(motion.Skeleton, motion.FrameRate, motion.FrameCount, motion.Rotations, motion.Translations)
            {
                Morphs = new Dictionary<string, float[]> { [name] = [.. Enumerable.Repeat(value, motion.FrameCount)] },
            };
        var (a, b) = (MotionEdits.Range(Walk, 0, 100), MotionEdits.Range(Walk, 60, 160));
        var baked = ClipJoiner.Join([Of(Faced(a, "jawOpen", 1)), Of(Faced(b, "smile", .5f), 20), Of(Faced(a, "jawOpen", .2f), 20)]);
        Assert.Equal(260, baked.Motion.FrameCount);
        Assert.Equal([80, 160], baked.Overlaps.Select(o => o.Start));
        Assert.Equal([1, 2], baked.Overlaps.Select(o => o.Clip));
        var (jaw, smile) = (baked.Motion.Morphs["jawOpen"], baked.Motion.Morphs["smile"]);
        Assert.Equal((1f, 0f, .2f), (jaw[79], jaw[110], jaw[259]));
        Assert.Equal((0f, .5f, 0f), (smile[79], smile[110], smile[200]));
        Assert.InRange(jaw[90], .3f, .7f);
    }

    [Fact]
    public void What_cannot_be_joined_is_refused_by_the_number_of_its_clip()
    {
        string Said(params PlannedClip[] clips) => Assert.Throws<RefusedException>(() => ClipJoiner.Join(clips)).Message;
        Assert.Contains("no clip", Said(), StringComparison.Ordinal);
        Assert.Contains("clip 2 is at 30", Said(Of(Walk), Of(MotionEdits.Resample(Hop, 30))), StringComparison.Ordinal);
        var other = Acts.Perform("lamp-walk", HarbourCast.Tobi, 1, 60).Actors[0].Motion;
        Assert.Contains("clip 2 is on another skeleton", Said(Of(Walk), Of(other)), StringComparison.Ordinal);
        Assert.Contains(
            "the overlap of clip 2 is 50 frames",
            Said(Of(Walk), Of(MotionEdits.Range(Hop, 0, 40), 50)),
            StringComparison.Ordinal
        );
        Assert.Contains("clip 2 has no best moment", Said(Of(Walk), Of(MotionEdits.Range(Hop, 0, 5), null)), StringComparison.Ordinal);
        Assert.Contains("by -3 frames", Said(Of(Walk), Of(Hop, -3)), StringComparison.Ordinal);
        Assert.Contains(
            "0 times",
            Said(new PlannedClip(new ClipMotion(Walk), new ClipPlay(0, Meet.Best) { Repeat = 0 })),
            StringComparison.Ordinal
        );
        var legless = new Meet(BodyRole.IndexL1);
        Assert.Contains("IndexL1", Said(Of(Walk), Of(Hop, 18, legless)), StringComparison.Ordinal);
        using var stop = new CancellationTokenSource();
        stop.Cancel();
        Assert.Throws<OperationCanceledException>(() => ClipJoiner.Join([Of(Walk)], null, stop.Token));
    }
}
