using System.Numerics;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Solving;

/// <summary>One person measured once, shared by the tests that need a body.</summary>
public sealed class Measured
{
    public Measured()
    {
        // Nobody from the demo: another stature, other arms, other habits.
        Person = new Person("Marit", 1.63f, 0.97f, 57);
        Rom = MarkerSimulator.Labelled(SceneCatalog.Perform("rom", Person, 3));
        (Performer, Report) = PerformerCalibration.Calibrate("Marit", Rom, HarbourMarkers.Set());
    }

    public Person Person { get; }

    public MarkerTake Rom { get; }

    public Performer Performer { get; }

    public CalibrationReport Report { get; }
}

public sealed class CalibrationTests(Measured measured) : IClassFixture<Measured>
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
    [InlineData("lamp-walk")]
    [InlineData("gangplank-hop")]
    [InlineData("haul-rope")]
    public void Joint_centres_are_within_ten_millimetres_of_the_truth(string scene)
    {
        var performance = SceneCatalog.Perform(scene, measured.Person, 2);
        var (motion, report) = TakeSolver.Solve(
            measured.Performer,
            MarkerSimulator.Labelled(performance, new MarkerSimulator.Settings(MinimumCameras: 3))
        );
        var truth = ForwardKinematics.WorldPositions(performance.Actors[0].Motion);
        var mine = ForwardKinematics.WorldPositions(motion);
        var rms = Math.Sqrt(truth.Zip(mine, (a, b) => (a - b).LengthSquared()).Average()) * 1000;
        Assert.True(rms < 10, $"{rms:0.0} mm");
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
            Assert.Throws<ArgumentException>(() => PerformerCalibration.Calibrate("x", few, HarbourMarkers.Set())).Message,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void A_name_that_is_there_already_is_kept()
    {
        var subject = LabelSubject.From(null, measured.Performer, measured.Rom);
        var seen = MarkerSimulator.Labelled(SceneCatalog.Perform("gangplank-hop", measured.Person, 1)).Range(0, 240);
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
