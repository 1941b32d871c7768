using System.Text.Json.Nodes;
using Eidolon.Cli;
using Eidolon.Core.Formats;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Cli;

/// <summary>Plans baked and cycles closed from the shell.</summary>
public sealed class AssembleTests : IDisposable
{
    private static readonly Motion Walk = Act("lamp-walk"),
        Hop = Act("gangplank-hop");

    private readonly string _folder = Directory.CreateTempSubdirectory("eidolon-assemble").FullName;

    public AssembleTests()
    {
        Directory.CreateDirectory(P("clips"));
        MotionFiles.WriteMotion(P("clips/walk.bvh"), MotionEdits.Range(Walk, 0, 300));
        MotionFiles.WriteMotion(P("clips/hop.bvh"), MotionEdits.Range(Hop, 0, 300));
    }

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private string P(string name) => Path.Combine(_folder, name);

    private static Motion Act(string scene) => Acts.Perform(scene, HarbourCast.Ines, 1, 60).Actors[0].Motion;

    private static int Run(params string[] args) => Runner.Run(Commands.Root(), args);

    private JsonNode Assembled(string plan, string output = "out.bvh")
    {
        File.WriteAllText(P("plan.json"), plan.Replace('\'', '"'));
        Assert.Equal(0, Run("assemble", P("plan.json"), "--out", P(output), "--json", P("report.json")));
        return JsonNode.Parse(File.ReadAllText(P("report.json")))!;
    }

    private string Refused(string plan)
    {
        File.WriteAllText(P("plan.json"), plan.Replace('\'', '"'));
        var before = Console.Error;
        using var error = new StringWriter();
        Console.SetError(error);
        try
        {
            Assert.Equal(3, Run("assemble", P("plan.json"), "--out", P("refused.bvh")));
        }
        finally
        {
            Console.SetError(before);
        }

        Assert.False(File.Exists(P("refused.bvh")));
        Assert.Single(error.ToString().Trim().Split('\n'));
        return error.ToString();
    }

    [Fact]
    public void A_plan_is_baked_as_it_says()
    {
        var report = Assembled(
            """
            { 'frameRate': 30, 'clips': [
              { 'file': 'clips/walk.bvh', 'start': 20, 'end': 220 },
              { 'file': 'clips/hop.bvh', 'start': 0, 'end': 300, 'overlap': 18,
                'meet': { 'joint': 'Pelvis', 'moment': 'middle', 'place': 'floor', 'turn': 'heading' } },
              { 'file': 'clips/walk.bvh', 'overlap': 'best', 'speed': 1.25, 'repeat': 2, 'mirror': true } ] }
            """
        );
        var motion = MotionFiles.ReadMotion(P("out.bvh"));
        Assert.Equal(30, motion.FrameRate, 3);
        Assert.Equal((int)report["frames"]!, motion.FrameCount);
        var overlaps = report["overlaps"]!.AsArray();
        Assert.Equal([1, 2, 2], overlaps.Select(o => (int)o!["clip"]!));
        Assert.Equal((100 - 18, 99), ((int)overlaps[0]!["start"]!, (int)overlaps[0]!["end"]!));
        Assert.All(overlaps, o => Assert.InRange((double)o!["slideMillimetres"]!, 0, 4));
        Assert.All(overlaps, o => Assert.InRange((double)o!["accelerationPeakRatio"]!, 0, 1.5));
    }

    [Fact]
    public void In_place_and_layers_are_applied_to_the_whole()
    {
        Assembled(
            "{ 'inPlace': true, 'clips': [ { 'file': 'clips/walk.bvh' }, { 'file': 'clips/hop.bvh', 'overlap': 20 } ] }",
            "still.bvh"
        );
        var still = MotionFiles.ReadMotion(P("still.bvh"));
        Assert.All(Enumerable.Range(0, still.FrameCount), f => Assert.Equal(still.TranslationsAt(0)[0].X, still.TranslationsAt(f)[0].X, 4));

        const string layer =
            "'layers': [ { 'joint': 'HandR', 'mode': 'additive', 'weight': 1, 'keys': [ { 'frame': 10, 'z': 20 }, { 'frame': 40, 'release': true } ] } ]";
        Assembled("{ 'clips': [ { 'file': 'clips/walk.bvh' } ] }", "plain.bvh");
        Assembled($"{{ 'clips': [ {{ 'file': 'clips/walk.bvh' }} ], {layer} }}", "layered.bvh");
        var (plain, layered) = (MotionFiles.ReadMotion(P("plain.bvh")), MotionFiles.ReadMotion(P("layered.bvh")));
        var hand = plain.Skeleton.IndexOf("HandR");
        double Turned(int f) => Core.Geometry.Rotations.Angle(plain.RotationsAt(f)[hand], layered.RotationsAt(f)[hand]) * 180 / Math.PI;
        Assert.Equal(20, Turned(10), 1);
        Assert.Equal(0, Turned(60), 1);
    }

    [Theory]
    [InlineData("{ 'clips': [] }", "clips: there is no clip")]
    [InlineData("{ 'clips': 3 }", "clips: a list is expected")]
    [InlineData("{ 'clips': [ 7 ] }", "clips[0]: an object is expected")]
    [InlineData("{ 'clips': [ { 'start': 1 } ] }", "clips[0].file: it is missing")]
    [InlineData("{ 'clips': [ { 'file': 'clips/none.bvh' } ] }", "clips[0].file: there is no file 'clips/none.bvh'")]
    [InlineData("{ 'clips': [ { 'file': 'clips/walk.bvh', 'start': -1 } ] }", "clips[0].start: -1 is too small")]
    [InlineData("{ 'clips': [ { 'file': 'clips/walk.bvh', 'start': 50, 'end': 40 } ] }", "clips[0].end: 40 is too small: at least 51")]
    [InlineData("{ 'clips': [ { 'file': 'clips/walk.bvh', 'end': 301 } ] }", "clips[0].end: clips/walk.bvh has 300 frames")]
    [InlineData("{ 'clips': [ { 'file': 'clips/walk.bvh', 'start': 300 } ] }", "clips[0].start: clips/walk.bvh has 300 frames")]
    [InlineData("{ 'clips': [ { 'file': 'clips/walk.bvh', 'speed': 0 } ] }", "clips[0].speed: 0 is no speed")]
    [InlineData("{ 'clips': [ { 'file': 'clips/walk.bvh', 'repeat': 1.5 } ] }", "clips[0].repeat: 1.5 is no whole number")]
    [InlineData("{ 'clips': [ { 'file': 'clips/walk.bvh', 'mirror': 'yes' } ] }", "clips[0].mirror: true or false")]
    [InlineData("{ 'frameRate': -4, 'clips': [ { 'file': 'clips/walk.bvh' } ] }", "frameRate: -4 is no frame rate")]
    [InlineData(
        "{ 'clips': [ { 'file': 'clips/walk.bvh' }, { 'file': 'clips/hop.bvh', 'overlap': -5 } ] }",
        "clips[1].overlap: -5 is too small"
    )]
    [InlineData(
        "{ 'clips': [ { 'file': 'clips/walk.bvh' }, { 'file': 'clips/hop.bvh', 'overlap': 'good' } ] }",
        "clips[1].overlap: one of best"
    )]
    [InlineData(
        "{ 'clips': [ { 'file': 'clips/walk.bvh' }, { 'file': 'clips/hop.bvh', 'overlap': 400 } ] }",
        "overlap of clip 2 is 400 frames"
    )]
    [InlineData(
        "{ 'clips': [ { 'file': 'clips/walk.bvh' }, { 'file': 'clips/hop.bvh', 'meet': { 'joint': 'Tail' } } ] }",
        "clips[1].meet.joint: 'Tail' is not a body role"
    )]
    [InlineData(
        "{ 'clips': [ { 'file': 'clips/walk.bvh' }, { 'file': 'clips/hop.bvh', 'meet': { 'turn': 'left' } } ] }",
        "clips[1].meet.turn: one of heading, full, none"
    )]
    [InlineData(
        "{ 'clips': [ { 'file': 'clips/walk.bvh' } ], 'layers': [ { 'joint': 'Tail', 'keys': [] } ] }",
        "layers[0]: there is no joint 'Tail'"
    )]
    [InlineData(
        "{ 'clips': [ { 'file': 'clips/walk.bvh' } ], 'layers': [ { 'joint': 'HandR', 'mode': 'odd' } ] }",
        "layers[0].mode: one of additive"
    )]
    public void Wrong_plans_are_refused_with_the_place_and_the_reason(string plan, string said) =>
        Assert.Contains(said, Refused(plan), StringComparison.Ordinal);

    [Theory]
    [InlineData("{ 'clips': [ { 'file': 'clips/walk.bvh', 'repeat': 10000, 'speed': 0.01 } ] }", "clip 1, 300 frames 10000 times at 0.01")]
    [InlineData(
        "{ 'clips': [ { 'file': 'clips/walk.bvh' }, { 'file': 'clips/hop.bvh', 'overlap': 4, 'repeat': 10000, 'speed': 0.05 } ] }",
        "clip 2"
    )]
    [InlineData("{ 'frameRate': 9999, 'clips': [ { 'file': 'clips/walk.bvh', 'repeat': 500 } ] }", "clip 1")]
    [InlineData("{ 'clips': [ { 'file': 'clips/walk.bvh' } ], 'loop': { 'cycles': 1000000 } }", "loop")]
    public void Numbers_that_are_each_allowed_do_not_take_the_machine_together(string plan, string said)
    {
        var before = GC.GetTotalAllocatedBytes();
        Assert.Contains(said, Refused(plan), StringComparison.Ordinal);
        var made = (GC.GetTotalAllocatedBytes() - before) / 1e6;
        Assert.True(made < 500, $"{made:0} MB were made before it was refused");
    }

    [Fact]
    public void A_rate_that_makes_too_much_of_a_file_is_refused()
    {
        MotionFiles.WriteMotion(P("long.bvh"), MotionEdits.Retime(MotionEdits.Range(Walk, 0, 300), 0.01));
        Assert.Equal(3, Run("convert", P("long.bvh"), P("fast.glb"), "--fps", "10000"));
        Assert.False(File.Exists(P("fast.glb")));
    }

    [Fact]
    public void A_clip_on_another_skeleton_is_refused()
    {
        MotionFiles.WriteMotion(P("clips/tobi.bvh"), Acts.Perform("lamp-walk", HarbourCast.Tobi, 1, 60).Actors[0].Motion);
        var said = Refused("{ 'clips': [ { 'file': 'clips/walk.bvh' }, { 'file': 'clips/tobi.bvh' } ] }");
        Assert.Contains("clip 2 is on another skeleton", said, StringComparison.Ordinal);
    }

    [Fact]
    public void A_cycle_is_closed_and_written_as_often_as_asked()
    {
        MotionFiles.WriteMotion(P("walk.bvh"), Walk);
        Assert.Equal(0, Run("loop", P("walk.bvh"), "--out", P("loop.bvh"), "--cycles", "3", "--json", P("report.json")));
        var report = JsonNode.Parse(File.ReadAllText(P("report.json")))!;
        var (start, end) = ((int)report["start"]!, (int)report["end"]!);
        Assert.Equal(((end - start) * 3) + 1, MotionFiles.ReadMotion(P("loop.bvh")).FrameCount);
        Assert.InRange((double)report["closingMillimetres"]!, 0, 1);
        Assert.InRange((double)report["closingDegrees"]!, 0, .5);
        Assert.InRange((double)report["closingSpeedMillimetresPerSecond"]!, 0, 20);
        Assert.InRange((double)report["strideMetres"]!, 1, 2);

        Assert.Equal(
            0,
            Run("loop", P("walk.bvh"), "--out", P("part.glb"), "--frames", "150:320", "--in-place", "--json", P("report.json"))
        );
        report = JsonNode.Parse(File.ReadAllText(P("report.json")))!;
        Assert.InRange((int)report["start"]!, 150, 319);
        Assert.InRange((int)report["end"]!, 151, 319);

        Assert.Equal(2, Run("loop", P("walk.bvh"), "--out", P("no.bvh"), "--cycles", "0"));
        Assert.Equal(2, Run("loop", P("walk.bvh"), "--out", P("no.c3d")));
        Assert.Equal(3, Run("loop", P("walk.bvh"), "--out", P("no.bvh"), "--frames", "10:20"));
        Assert.False(File.Exists(P("no.bvh")));
    }
}
