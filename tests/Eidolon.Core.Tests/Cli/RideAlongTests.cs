using System.Text.Json.Nodes;
using Eidolon.Cli;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.C3d;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Tests.Hands;
using Eidolon.StandIns.Devices;
using Eidolon.StandIns.Inertial;
using Eidolon.StandIns.People;

namespace Eidolon.Core.Tests.Cli;

/// <summary>Hands and face from the shell: they come with the take's own markers, with gloves, with a face's table.</summary>
public sealed class RideAlongTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("eidolon-rides").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private string P(string name) => Path.Combine(_folder, name);

    private static int Run(params string[] args) => Runner.Run(Commands.Root(), args);

    private Signals Written()
    {
        var s = Signals.By(HarbourCast.Ines);
        File.WriteAllText(P("performer.json"), PerformerJson.Write(s.Performer));
        File.WriteAllText(P("set.json"), MarkerSetJson.Write(s.Set));
        // Files count their frames from where they please: what rides along begins with the first of them all the same.
        var numbered = new MarkerTake(s.Seen.Names, s.Seen.FrameRate, s.Seen.FrameCount, s.Seen.Positions) { FirstFrame = 1001 };
        AtomicFile.Write(P("take.c3d"), o => C3dWriter.Write(o, new C3dDocument(numbered)));
        AtomicFile.Write(P("face.csv"), o => FaceCsv.Write(o, FaceSimulator.See(s.Scene.Face!, s.Scene.Seconds, 0.083, 3)));
        AtomicFile.Write(P("gloves.csv"), o => GloveCsv.Write(o, GloveSimulator.Measure(s.Truth, 3)));
        return s;
    }

    private string[] Solve(params string[] more) =>
        ["solve", P("take.c3d"), "--marker-set", P("set.json"), "--performer", P("performer.json"), "--out", P("out.bvh"), .. more];

    private JsonNode Json(params string[] args)
    {
        Assert.Equal(0, Run([.. args, "--json", P("report.json")]));
        return JsonNode.Parse(File.ReadAllText(P("report.json")))!;
    }

    [Fact]
    public void Fingers_and_face_are_solved_with_the_body_and_said_in_the_report()
    {
        var s = Written();
        var report = Json(Solve("--face", P("face.csv")));
        Assert.Equal(10, ((JsonArray)report["hands"]!["fingers"]!).Count);
        Assert.InRange((double)report["face"]!["offsetSeconds"]!, 0.083 - 0.0083, 0.083 + 0.0083);
        Assert.Contains((JsonArray)report["warnings"]!, w => ((string)w!).Contains("hold no weights"));
        var motion = MotionFiles.ReadMotion(P("out.bvh"));
        Assert.Equal((52, s.Seen.FrameCount), (motion.Skeleton.Count, motion.FrameCount));
        // In the fist the middle finger is closed: 2.4 s after the beginning.
        var middle = motion.Skeleton.IndexOf("MiddleR2");
        Assert.True(Eidolon.Core.Geometry.Rotations.Log(motion.RotationsAt(144)[middle]).Length() > 1.2f);
    }

    [Fact]
    public void Gloves_win_over_markers_and_a_table_that_is_neither_is_refused_with_its_place()
    {
        Written();
        var report = Json(Solve("--gloves", P("gloves.csv"), "--face", P("face.csv"), "--face-offset", "0.1"));
        Assert.All((JsonArray)report["hands"]!["fingers"]!, f => Assert.Equal(1, (double)f!["size"]!, 2));
        Assert.Equal(("hand", 0.1), ((string)report["face"]!["foundBy"]!, (double)report["face"]!["offsetSeconds"]!));
        File.WriteAllText(P("empty.csv"), "# samples, frameRate=60, units=weight\nframe,sure\n0,1\n");
        File.Delete(P("out.bvh"));
        Assert.Equal(ExitCodes.InvalidInput, Run(Solve("--face", P("empty.csv"))));
        Assert.False(File.Exists(P("out.bvh")));
    }
}
