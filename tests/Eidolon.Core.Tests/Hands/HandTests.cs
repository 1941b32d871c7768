using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Hands;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Inertial;
using Eidolon.StandIns.People;
using Eidolon.Testing;
using Xunit.Abstractions;

namespace Eidolon.Core.Tests.Hands;

/// <summary>Fingers from markers and from gloves against the truth of the stand-ins.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public sealed class HandTests(ITestOutputHelper output)
{
    public static TheoryData<string> People => ["Ines", "Tobi"];

    private static int At(MarkerTake take, string name) => take.IndexOf(name);

    [Theory]
    [MemberData(nameof(People))]
    public void One_marker_a_finger_tells_how_it_is_held(string who)
    {
        var s = Signals.By(HarbourCast.Find(who));
        var (motion, poses, report) = HandMarkers.Solve(s.Performer, s.Body, s.Seen, s.Set);
        var (all, worst, tip) = s.Against(motion);
        output.WriteLine($"{who}: {all:0.0}° RMS a joint, worst finger {worst:0.0}°, tips {tip:0.0} mm");
        output.WriteLine(s.PerFinger(motion));
        output.WriteLine(
            string.Join(
                "; ",
                report.Fingers.Select(f => $"{f.Side}{f.Finger} {f.Millimetres:0.0} mm seen {f.Seen:0.00} size {f.Size:0.00}")
            )
        );
        output.WriteLine(string.Join("; ", report.Off) + string.Join("; ", report.Warnings));
        Assert.True(all < 9, $"{all:0.0}°");
        Assert.True(worst < 14, $"{worst:0.0}°");
        Assert.True(tip < 8, $"{tip:0.0} mm");
        Assert.All(poses.Poses, p => Assert.True(p is { First: >= 0, Second: >= 0, Third: >= 0 }));
    }

    [Theory]
    [MemberData(nameof(People))]
    public void Gloves_strapped_on_any_way_round_tell_it_too(string who)
    {
        var s = Signals.By(HarbourCast.Find(who));
        var gloves = GloveSimulator.Measure(s.Truth, 5);
        var (motion, poses, report) = GloveSolver.Solve(s.Body, s.Performer.Stature, gloves);
        var (all, worst, tip) = s.Against(motion);
        output.WriteLine(
            $"{who}: {all:0.0}° RMS a joint, worst finger {worst:0.0}°, tips {tip:0.0} mm {string.Join(';', report.Warnings)}"
        );
        Assert.True(all < 7, $"{all:0.0}°");
        Assert.True(worst < 10, $"{worst:0.0}°");
        Assert.All(poses.Poses, p => Assert.True(p is { First: >= 0, Second: >= 0, Third: >= 0 }));
    }

    [Fact]
    public void Exchanged_markers_are_named_and_no_finger_bends_backwards()
    {
        var s = Signals.By(HarbourCast.Ines);
        var seen = s.Seen.Copy();
        // While the hand points, the index and the middle finger could not be held more differently.
        for (var f = 740; f < 780; f++)
        {
            int a = At(seen, "IndexNailR"),
                b = At(seen, "MiddleNailR");
            (seen[f, a], seen[f, b]) = (seen[f, b], seen[f, a]);
        }

        var (motion, _, report) = HandMarkers.Solve(s.Performer, s.Body, seen, s.Set);
        var off = Assert.Single(report.Off, o => o is { Side: 'R', Finger: "Index" });
        Assert.Equal("Middle", off.With);
        Assert.InRange(off.Start, 738, 745);
        Assert.InRange(off.End, 774, 781);
        Assert.Contains(report.Warnings, w => w.Contains("right index") && w.Contains("exchanged"));
        Assert.True(s.Against(motion).All < 10);
    }

    [Fact]
    public void What_was_not_seen_goes_smoothly_between_what_was_and_a_finger_without_a_marker_follows_its_neighbours()
    {
        var s = Signals.By(HarbourCast.Ines);
        var seen = s.Seen.Copy();
        for (var f = 0; f < seen.FrameCount; f++)
        {
            seen[f, At(seen, "RingNailR")] = MarkerTake.Hidden;
            if (f is > 400 and < 430)
            {
                seen[f, At(seen, "IndexNailR")] = MarkerTake.Hidden;
            }
        }

        var (motion, poses, report) = HandMarkers.Solve(s.Performer, s.Body, seen, s.Set);
        Assert.Equal(0, report.Fingers.Single(f => f is { Side: 'R', Finger: "Ring" }).Seen);
        // In the fist it closes with the others, in the open hand it lies flat.
        Assert.True(poses.Poses[HandPoses.At(150, 1, 3)].Curl > 0.7f);
        Assert.True(poses.Poses[HandPoses.At(40, 1, 3)].Curl < 0.15f);
        var index = motion.Skeleton.IndexOf(BodyRole.IndexR1);
        for (var f = 400; f < 430; f++)
        {
            Assert.True(Rotations.Angle(motion.RotationsAt(f)[index], motion.RotationsAt(f + 1)[index]) < 0.15f);
        }
    }

    [Fact]
    public void Markers_on_fingers_do_not_pull_the_body()
    {
        var s = Signals.By(HarbourCast.Ines);
        Assert.Equal(53, FingerMarkers.Body(s.Set).Markers.Count);
        Assert.Equal(10, FingerMarkers.Of(s.Set).Count());
        Assert.DoesNotContain(s.Performer.Markers, m => m.Name.Contains("Nail"));
        // A hand that has no other markers keeps them: a wrist must hang on something.
        var few = s.Set with { Markers = [.. s.Set.Markers.Where(m => m.Segment != BodyRole.HandL)] };
        Assert.Equal(5, FingerMarkers.Body(few).Markers.Count(m => BodyRoles.IsFinger(m.Segment)));
    }

    [Fact]
    public void A_body_has_its_fingers_once_and_loses_them_again()
    {
        var s = Signals.By(HarbourCast.Ines);
        var once = HandMarkers.Solve(s.Performer, s.Body, s.Seen, s.Set).Motion;
        var twice = HandMarkers.Solve(s.Performer, once, s.Seen, s.Set).Motion;
        Assert.Equal(s.Body.Skeleton.Count + 30, once.Skeleton.Count);
        Assert.Equal(once.Skeleton.Count, twice.Skeleton.Count);
        Assert.Equal(s.Body.Rotations, HandSkeleton.Without(twice).Rotations);
    }

    [Fact]
    public void What_cannot_be_done_is_refused_with_the_reason()
    {
        var s = Signals.By(HarbourCast.Ines);
        var none = Assert.Throws<RefusedException>(() => HandMarkers.Solve(s.Performer, s.Body, s.Seen, HarbourMarkers.Set()));
        Assert.Contains("no marker of the take sits on a finger", none.Message);
        var gloves = GloveSimulator.Measure(MotionEdits.Range(s.Truth, 300, 500), 5);
        var posed = Assert.Throws<RefusedException>(() => GloveSolver.Solve(s.Body, 1.7f, gloves));
        Assert.Contains("open hand followed by a fist", posed.Message);
        // Given by hand they are taken.
        var whole = GloveSimulator.Measure(s.Truth, 5);
        var (motion, _, _) = GloveSolver.Solve(s.Body, s.Performer.Stature, whole, open: (20, 70), fist: (120, 170));
        Assert.True(s.Against(motion).All < 7);
    }

    [Fact]
    public void The_solver_finds_any_pose_that_two_places_tell()
    {
        var chain = HandShape.Average('L', 0.19f).Fingers[2];
        var random = new Random(3);
        Span<Vector3> four = new Vector3[4];
        for (var n = 0; n < 300; n++)
        {
            var bend = 1.6f * random.NextSingle();
            var pose = new FingerPose(0.3f * (random.NextSingle() - 0.5f), 1.4f * random.NextSingle(), bend, 0.667f * bend);
            chain.Places(pose, four);
            var (found, residual) = FingerSolver.Solve(
                chain,
                [new FingerSight(1, chain.Last, four[2]), new FingerSight(2, chain.Tip, four[3])],
                new FingerPose(0, 0.3f, 0.3f, 0.2f)
            );
            Assert.True(residual < 0.0015f, $"{n}: {residual * 1000:0.00} mm for {pose}, found {found}");
            Assert.InRange(found.Second - pose.Second, -0.12f, 0.12f);
        }
    }
}
