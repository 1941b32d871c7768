using System.Numerics;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.Testing;

namespace Eidolon.Core.Tests.Solving;

/// <summary>One person measured once, shared by the tests that need a body.</summary>
public sealed class Measured
{
    public Measured()
    {
        // Nobody from the demo: another stature, other arms, other habits.
        Person = new Person("Marit", 1.63f, 0.97f, 57);
        Rom = Acts.Labelled(Acts.Perform("rom", Person, 3));
        (Performer, Report) = PerformerCalibration.Calibrate("Marit", Rom, HarbourMarkers.Set());
    }

    public Person Person { get; }

    public MarkerTake Rom { get; }

    public Performer Performer { get; }

    public CalibrationReport Report { get; }
}

[Trait(LongRun.Run, LongRun.Whole)]
public sealed class CalibrationTests(Measured measured, Xunit.Abstractions.ITestOutputHelper output) : IClassFixture<Measured>
{
    [Fact]
    public void Bones_are_measured_within_a_centimetre()
    {
        foreach (var role in new[] { "Forearm", "Hand", "Shin", "Foot" })
        {
            foreach (var side in "LR")
            {
                var j = measured.Performer.Skeleton.IndexOf(role + side);
                var truth = measured.Person.Skeleton[measured.Person.Skeleton.IndexOf(role + side)].Offset.Length();
                Assert.InRange(measured.Performer.Skeleton[j].Offset.Length() - truth, -0.012f, 0.012f);
            }
        }
    }

    [Theory]
    [LongData("lamp-walk")]
    [InlineData("gangplank-hop")]
    [LongData("haul-rope")]
    public void Joint_centres_are_within_four_millimetres_of_the_truth(string scene)
    {
        var performance = Acts.Perform(scene, measured.Person, 2);
        var (motion, report) = TakeSolver.Solve(
            measured.Performer,
            Acts.Labelled(performance, new MarkerSimulator.Settings(MinimumCameras: 3))
        );
        var truth = ForwardKinematics.WorldPositions(performance.Actors[0].Motion);
        var mine = ForwardKinematics.WorldPositions(motion);
        var rms = Math.Sqrt(truth.Zip(mine, (a, b) => (a - b).LengthSquared()).Average()) * 1000;
        output.WriteLine($"{rms:0.0} mm");
        Assert.True(rms < 4, $"{rms:0.0} mm");
        Assert.True(report.Mean < 4, $"{report.Mean:0.0} mm mean");
        // Bones are exactly as long as the performer's in every frame, and nothing flips from one frame to the next.
        for (var k = motion.Skeleton.Count; k < motion.Rotations.Length; k++)
        {
            var jump = Core.Geometry.Rotations.Angle(motion.Rotations[k - motion.Skeleton.Count], motion.Rotations[k]);
            Assert.True(
                jump < 0.5f,
                $"{motion.Skeleton[k % motion.Skeleton.Count].Name} turns {jump:0.00} rad at frame {k / motion.Skeleton.Count}"
            );
        }
    }

    [Fact, Trait(LongRun.Run, LongRun.Long)]
    public void A_stranger_in_a_sloppy_T_pose_is_measured_where_the_joints_are()
    {
        // Shares of the stature that no table has, legs outward, arms low, soft skin.
        var person = Strangers.Some(4, 9)[2];
        var worn = new MarkerSimulator.Settings(SpikesPerMinute: 0, Skin: Skin.Soft, Occlusion: false);
        var performance = Acts.Perform("rom", person, 1, 60);
        var rom = Acts.Labelled(performance, worn);
        var performer = PerformerCalibration.Calibrate("x", rom, HarbourMarkers.Set()).Performer;
        var (truth, mine) = (performance.Actors[0].Motion, TakeSolver.Solve(performer, rom).Motion);
        double At(BodyRole role)
        {
            return Off(truth, mine, role);
        }

        var all = Off(truth, mine, 0, truth.FrameCount);
        var (hips, wrist, knee, ankle) = (At(BodyRole.Pelvis), At(BodyRole.HandL), At(BodyRole.ShinL), At(BodyRole.FootL));
        output.WriteLine($"{all:0.0} mm in all, hips {hips:0.0}, wrist {wrist:0.0}, knee {knee:0.0}, ankle {ankle:0.0}");
        Assert.True(all < 6.2, $"{all:0.0} mm in all");
        Assert.True(Math.Max(Math.Max(hips, knee), Math.Max(wrist, ankle)) < 5.5, $"{hips:0.0} {wrist:0.0} {knee:0.0} {ankle:0.0} mm");
    }

    [Fact]
    public void Legs_that_are_not_square_to_the_bend_of_the_knee_are_measured_all_the_same()
    {
        // Bones seven degrees off, as skeletons of recordings have them and the stand-ins never; markers on the bones, with noise.
        const float outward = 0.12f;
        var motion = Acts.Perform("rom", measured.Person, 3, 60).Actors[0].Motion.Copy();
        var set = HarbourMarkers.Set(measured.Person);
        float Aside(BodyRole role) => BodyRoles.Stem(role) is "Shin" or "Foot" ? (BodyRoles.Side(role) == 'L' ? 1 : -1) * outward : 0;
        var n = motion.Skeleton.Count;
        for (var f = 0; f < motion.FrameCount; f++)
        {
            for (var j = 0; j < n; j++)
            {
                ref var t = ref motion.Translations[(f * n) + j];
                t += new Vector3(Aside(motion.Skeleton[j].Role!.Value) * t.Length(), 0, 0);
            }
        }

        var turns = new Quaternion[motion.FrameCount * n];
        var truth = ForwardKinematics.WorldPositions(motion, turns);
        var rom = new MarkerTake([.. set.Markers.Select(m => m.Name)], motion.FrameRate, motion.FrameCount);
        var random = new Random(5);
        float Noise() => (random.NextSingle() - 0.5f) * 0.001f;
        for (var f = 0; f < rom.FrameCount; f++)
        {
            for (var m = 0; m < rom.MarkerCount; m++)
            {
                var (role, at) = (set.Markers[m].Segment, set.Markers[m].Offset!.Value);
                var j = (f * n) + motion.Skeleton.IndexOf(role);
                // Flesh follows its bone.
                at.X += BodyRoles.Stem(role) is "Thigh" or "Shin" ? (BodyRoles.Side(role) == 'L' ? -1 : 1) * outward * at.Y : 0;
                rom[f, m] = truth[j] + Vector3.Transform(at, turns[j]) + new Vector3(Noise(), Noise(), Noise());
            }
        }

        var performer = PerformerCalibration.Calibrate("x", rom, HarbourMarkers.Set()).Performer;
        var mine = TakeSolver.Solve(performer, rom).Motion;
        foreach (var role in new[] { BodyRole.ShinL, BodyRole.ShinR, BodyRole.FootL, BodyRole.FootR })
        {
            var off = Off(motion, mine, role);
            output.WriteLine($"{role} {off:0.0} mm");
            Assert.True(off < 2.5, $"{role} {off:0.0} mm");
        }
    }

    /// <summary>How far one joint is off over a whole take, RMS, millimetres.</summary>
    private static double Off(Motion truth, Motion mine, BodyRole role)
    {
        var (p, q) = (ForwardKinematics.WorldPositions(truth), ForwardKinematics.WorldPositions(mine));
        var (n, m) = (truth.Skeleton.Count, mine.Skeleton.Count);
        var (a, b) = (truth.Skeleton.IndexOf(role), mine.Skeleton.IndexOf(role));
        return Math.Sqrt(Enumerable.Range(0, truth.FrameCount).Average(f => (double)(p[(f * n) + a] - q[(f * m) + b]).LengthSquared()))
            * 1000;
    }

    private static double Off(Motion truth, Motion mine, int from, int to)
    {
        var (p, q) = (ForwardKinematics.WorldPositions(truth), ForwardKinematics.WorldPositions(mine));
        var n = truth.Skeleton.Count;
        return Math.Sqrt(Enumerable.Range(from * n, (to - from) * n).Average(k => (p[k] - q[k]).LengthSquared())) * 1000;
    }

    [Fact]
    public void Markers_that_slipped_far_do_not_pull_the_body_along()
    {
        var performance = Acts.Perform("lamp-walk", measured.Person, 2);
        var truth = performance.Actors[0].Motion;
        var take = Acts.Labelled(performance, new MarkerSimulator.Settings(SpikesPerMinute: 0, Occlusion: false));
        var slipped = take.Copy();
        foreach (var (name, to) in new[] { ("ElbowOutL", 0.12f), ("KneeOutR", -0.10f), ("HipFrontL", 0.11f), ("Crown", 0.15f) })
        {
            for (var f = 0; f < slipped.FrameCount; f++)
            {
                slipped[f, slipped.IndexOf(name)] += new Vector3(to, to / 2, 0);
            }
        }

        var plain = Off(truth, TakeSolver.Solve(measured.Performer, take).Motion, 0, truth.FrameCount);
        var off = Off(truth, TakeSolver.Solve(measured.Performer, slipped).Motion, 0, truth.FrameCount);
        output.WriteLine($"{plain:0.0} mm as worn, {off:0.0} mm with four slipped markers");
        Assert.True(off < plain + SlipAllowed, $"{plain:0.0} mm as worn, {off:0.0} mm with four slipped markers");
    }

    private const double SlipAllowed = 3;

    [Fact]
    public void A_body_that_is_suddenly_elsewhere_is_found_again()
    {
        // Two takes spliced: from one frame to the next the performer stands turned round, lower, elsewhere.
        var truth = Acts.Perform("deck-crouch", measured.Person, 2).Actors[0].Motion;
        var take = Acts.Labelled(
            Acts.Perform("deck-crouch", measured.Person, 2),
            new MarkerSimulator.Settings(SpikesPerMinute: 0, Occlusion: false)
        );
        var prefix = take.Names[0].Contains(':', StringComparison.Ordinal) ? MarkerNames.Split(take.Names[0]).Performer : null;
        var own = prefix is null ? take : MarkerNames.Subject(take, prefix);
        var cut = own.FrameCount / 2;
        for (var f = cut; f < own.FrameCount; f++)
        {
            foreach (ref var p in own.At(f))
            {
                p = new Vector3(1.2f - p.X, p.Y, -0.8f - p.Z);
            }
        }

        var (motion, _) = TakeSolver.Solve(measured.Performer, own);
        var turned = MotionEdits.Turn(truth, Quaternion.CreateFromAxisAngle(Vector3.UnitY, MathF.PI));
        var (p0, q0) = (ForwardKinematics.WorldPositions(turned), ForwardKinematics.WorldPositions(motion));
        var n = truth.Skeleton.Count;
        var shift = new Vector3(1.2f, 0, -0.8f);
        var off =
            Math.Sqrt(
                Enumerable.Range((cut + 20) * n, (own.FrameCount - cut - 20) * n).Average(k => (p0[k] + shift - q0[k]).LengthSquared())
            ) * 1000;
        output.WriteLine($"{off:0.0} mm after the splice");
        Assert.True(off < 15, $"{off:0.0} mm after the splice");
    }

    [Fact]
    public void Sides_that_differ_by_noise_only_are_measured_alike()
    {
        foreach (var bone in new[] { "Forearm", "Hand", "Shin", "Foot" })
        {
            double Length(char side) =>
                measured.Performer.Skeleton[measured.Performer.Skeleton.IndexOf(bone + side)].Offset.Length() * 1000;
            output.WriteLine($"{bone} {Length('L') - Length('R'):0.00} mm");
            Assert.True(Math.Abs(Length('L') - Length('R')) < Alike, $"{bone} {Length('L'):0.0} and {Length('R'):0.0} mm");
        }
    }

    private const double Alike = 3;

    [Fact]
    public void Performer_json_comes_back()
    {
        var back = PerformerJson.Read(System.Text.Encoding.UTF8.GetBytes(PerformerJson.Write(measured.Performer)), "p.json");
        Assert.Equal(measured.Performer.Markers.Select(m => m.Name), back.Markers.Select(m => m.Name));
        Assert.True(
            measured
                .Performer.Skeleton.Joints.Zip(back.Skeleton.Joints)
                .All(p => (p.First.Offset - p.Second.Offset).Length() < 1e-5f && p.First.Role == p.Second.Role)
        );
    }

    [Fact]
    public void A_blind_stretch_is_held_and_said()
    {
        var take = measured.Rom.Range(0, 400).Copy();
        for (var f = 150; f < 170; f++)
        {
            take.At(f).Fill(MarkerTake.Hidden);
        }

        var (_, report) = TakeSolver.Solve(measured.Performer, take);
        Assert.Contains(report.Warnings, w => w.StartsWith("20 frames", StringComparison.Ordinal));
    }

    [Fact]
    public void Too_few_markers_are_refused_with_the_count()
    {
        var few = measured.Rom.Only(["Crown", "BrowL", "BrowR"]);
        Assert.Contains(
            "only 3",
            Assert.Throws<RefusedException>(() => PerformerCalibration.Calibrate("x", few, HarbourMarkers.Set())).Message,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void A_name_that_is_there_already_is_kept()
    {
        var subject = LabelSubject.From(null, measured.Performer, measured.Rom);
        var seen = Acts.Labelled(Acts.Perform("gangplank-hop", measured.Person, 1)).Range(0, 240);
        var dots = DotMaker.Make(seen, 1, out var truth);
        var column = Array.FindIndex(truth, t => t == "KneeOutL");
        var names = dots.Names.ToArray();
        // A person insists on a wrong name; no pass may change it.
        names[column] = "ShinR";
        var result = TakeLabeller.Label(dots.Renamed(names), HarbourMarkers.Set(), [subject]);
        var piece = result.Pieces.First(p => p.Column == column);
        Assert.True(piece is { Name: "ShinR", Pinned: true });
    }
}
