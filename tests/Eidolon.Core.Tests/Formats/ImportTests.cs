using System.Numerics;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Bvh;
using Eidolon.Core.Formats.C3d;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Formats;

public sealed class ImportTests
{
    private static readonly Performance Scene = Acts.Perform("haul-rope", HarbourCast.Tobi, 1);

    private static ImportedFile Markers(params string[] prefixes)
    {
        var one = Acts.Labelled(Scene).Range(0, 60);
        var take = new MarkerTake([.. prefixes.SelectMany(p => one.Names.Select(n => p.Length == 0 ? n : $"{p}:{n}"))], 120, 60);
        for (var f = 0; f < 60; f++)
        {
            for (var k = 0; k < prefixes.Length; k++)
            {
                one.At(f).CopyTo(take.At(f)[(k * one.MarkerCount)..]);
            }
        }

        using var s = new MemoryStream();
        C3dWriter.Write(s, new C3dDocument(take));
        return ImportedFile.Read(s.ToArray(), "two.c3d");
    }

    [Fact]
    public void A_wrong_unit_is_seen_in_the_height_and_put_right()
    {
        using var s = new MemoryStream();
        BvhWriter.Write(s, MotionEdits.Range(Scene.Actors[0].Motion, 0, 30), 0.001, null);
        var giant = ImportedFile.Read(s.ToArray(), "giant.bvh");
        Assert.InRange(giant.Height(), 15, 20);
        Assert.InRange(giant.Corrected(new ImportSettings(0.1)).Height(), 1.5, 2);
    }

    [Theory]
    [InlineData("Z")]
    [InlineData("X")]
    public void An_axis_that_lies_is_stood_up(string up)
    {
        var upright = Markers(string.Empty);
        var lying = upright with { Markers = upright.Markers!.Copy() };
        for (var i = 0; i < lying.Markers!.Positions.Length; i++)
        {
            var p = lying.Markers.Positions[i];
            lying.Markers.Positions[i] = up == "Z" ? new Vector3(p.X, -p.Z, p.Y) : new Vector3(p.Y, -p.X, p.Z);
        }

        var stood = lying.Corrected(new ImportSettings(Up: up));
        Assert.Equal(upright.Height(), stood.Height(), 4);
    }

    [Fact]
    public void A_motion_that_lies_is_stood_up_with_its_turns()
    {
        var motion = MotionEdits.Range(Scene.Actors[0].Motion, 0, 20);
        var lying = MotionEdits.Turn(motion, MotionFiles.YUpToZUp);
        var file = new ImportedFile("lying.bvh", FileKind.Bvh, null, lying, "cm", "Y").Corrected(new ImportSettings(Up: "Z"));
        var a = MotionFiles.JointPoints(motion);
        var b = MotionFiles.JointPoints(file.Motion!);
        Assert.All(a.Positions.Zip(b.Positions), p => Assert.True((p.First - p.Second).Length() < 1e-4f));
    }

    [Theory]
    [InlineData("-Y")]
    [InlineData("-Z")]
    [InlineData("-X")]
    public void An_axis_that_points_down_stands_markers_and_motions_alike(string up)
    {
        var motion = MotionEdits.Range(Scene.Actors[0].Motion, 0, 5);
        var points = MotionFiles.JointPoints(motion);
        var settings = new ImportSettings(Up: up);
        var asMotion = new ImportedFile("m.bvh", FileKind.Bvh, null, motion, "cm", "Y").Corrected(settings);
        var asMarkers = new ImportedFile("m.c3d", FileKind.C3d, points, null, "m", "Y").Corrected(settings);
        var turned = MotionFiles.JointPoints(asMotion.Motion!);
        Assert.All(asMarkers.Markers!.Positions.Zip(turned.Positions), p => Assert.True((p.First - p.Second).Length() < 1e-4f));
        Assert.NotEqual(points.Positions[0], turned.Positions[0]);
    }

    [Fact]
    public void A_left_handed_file_has_its_left_hand_on_the_left_again()
    {
        var motion = MotionEdits.Range(Scene.Actors[0].Motion, 0, 5);
        var told = MotionEdits.OtherHand(motion);
        var points = MotionFiles.JointPoints(told);
        Assert.Equal(-MotionFiles.JointPoints(motion)[0, 3].X, points[0, 3].X, 5);
        var settings = new ImportSettings(LeftHanded: true);
        var asMotion = new ImportedFile("m.bvh", FileKind.Bvh, null, told, "cm", "Y").Corrected(settings).Motion!;
        var asMarkers = new ImportedFile("m.c3d", FileKind.C3d, points, null, "m", "Y").Corrected(settings).Markers!;
        var truth = MotionFiles.JointPoints(motion);
        Assert.All(truth.Positions.Zip(MotionFiles.JointPoints(asMotion).Positions), p =>
            Assert.True((p.First - p.Second).Length() < 1e-4f)
        );
        Assert.All(truth.Positions.Zip(asMarkers.Positions), p => Assert.True((p.First - p.Second).Length() < 1e-4f));
    }

    [Fact]
    public void Prefixes_are_chosen_and_renamed()
    {
        var file = Markers("Ann", "Bo");
        Assert.Equal(["Ann", "Bo"], file.Prefixes);
        var own = file.Corrected(new ImportSettings(OldPrefix: "Bo", NewPrefix: "Tobi", Subjects: ["Bo"]));
        Assert.Equal(53, own.Markers!.MarkerCount);
        Assert.All(own.Markers.Names, n => Assert.StartsWith("Tobi:", n, StringComparison.Ordinal));
        Assert.Contains("Crown", file.Corrected(new ImportSettings(OldPrefix: "Ann", NewPrefix: "", Subjects: ["Ann"])).Markers!.Names);
        Assert.Throws<RefusedException>(() => file.Corrected(new ImportSettings(OldPrefix: "Ann", NewPrefix: "Bo")));
        Assert.Throws<RefusedException>(() => file.Corrected(new ImportSettings(Subjects: [])));
    }

    [Fact]
    public void A_rate_that_was_told_wrong_changes_no_sample()
    {
        var file = Markers(string.Empty);
        var right = file.Corrected(new ImportSettings(Rate: 100));
        Assert.Equal((100, 60), (right.FrameRate, right.FrameCount));
        Assert.Equal(file.Markers!.Positions, right.Markers!.Positions);
    }

    [Theory]
    [InlineData(0, "Y", 100.0, "unit")]
    [InlineData(1, "W", 100.0, "axis")]
    [InlineData(1, "Y", -3.0, "rate")]
    public void Corrections_that_cannot_be_are_refused(double scale, string up, double rate, string word) =>
        Assert.Contains(
            word,
            Assert.Throws<RefusedException>(() => Markers(string.Empty).Corrected(new ImportSettings(scale, up, rate))).Message,
            StringComparison.Ordinal
        );

    [Fact]
    public void A_table_says_its_own_unit()
    {
        using var s = new MemoryStream();
        CsvMarkers.Write(s, Acts.Labelled(Scene).Range(0, 5), "cm");
        var file = ImportedFile.Read(s.ToArray(), "p.csv");
        Assert.InRange(file.Height(), 1.5, 2);
        Assert.Throws<InvalidInputException>(() => ImportedFile.Read([1, 2, 3], "what.xyz"));
    }
}
