using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Cli;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Clipping;
using Eidolon.Core.Faces;
using Eidolon.Core.Geometry;
using Eidolon.Core.Hands;
using Eidolon.Core.Inertial;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Optical;
using Eidolon.Core.Quality;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.Core.Video;

namespace Eidolon.Core.Tests.Operations;

/// <summary>Reports word for word: their keys are read by pages, by the command line and by people's own scripts.</summary>
public sealed class OperationReportTests
{
    private static readonly Skeleton Body = Anthropometry.Body(1.7f);

    private static Motion Still(int frames) => Motion.AtRest(Body, 60, frames);

    [Fact]
    public void Of_a_suit()
    {
        var report = new SuitReport
        {
            Poses = new SuitPoses(new(1, 2), new(3, 4), new(5, 6)),
            TravelMetres = 12.34567,
            Contacts = [new Contact(BodyRole.FootL, 7, 9)],
            Disturbed = [new DisturbedRange(BodyRole.ShinR, 10, 20, 7.46)],
            Bias = new Dictionary<BodyRole, Vector3d> { [BodyRole.Head] = new(0.1234567, -0.2, 0.3) },
            Warnings = ["mind the gap"],
        };
        Assert.Equal(
            "{'frames':30,'frameRate':60,'travelMetres':12.346,'poses':{'still':[1,2],'tPose':[3,4],'aPose':[5,6]},"
                + "'contacts':[{'joint':'FootL','start':7,'end':9}],'disturbed':[{'bone':'ShinR','start':10,'end':20,'microtesla':7.5}],"
                + "'gyroscopeBias':{'Head':[0.123457,-0.2,0.3]},'warnings':['mind the gap']}",
            Told.Json(SuitOperation.ReportOf(Still(30), report))
        );
    }

    [Fact]
    public void Of_films()
    {
        var camera = CameraModel.Nominal("quay", 1920, 1080, 1500).LookingAt(new(0, 1, 5), new(0, 1, 0));
        var report = new FilmReport
        {
            OffsetsSeconds = [0, 0.1234567],
            Cameras = [camera],
            ReprojectionPixels = [3.456, double.NaN],
            Worst = [new FilmMiss(1, 8, "WristL", 33.33)],
            ExchangedLegs = [new ExchangedLegs(0, 4, 6)],
            Contacts = [new Contact(BodyRole.ToesR, 1, 2)],
            Warnings = ["dark"],
        };
        var said = FilmOperation.ReportOf(Still(30), report, ["a", "b"]);
        var seen = Assert.Single(said["cameras"]!.AsArray())!;
        said.Remove("cameras");
        Assert.Equal(
            "{'frames':30,'frameRate':60,'offsetsSeconds':[0,0.12346],'reprojectionPixels':[3.46,null],"
                + "'worst':[{'file':'b','film':1,'frame':8,'point':'WristL','pixels':33.3}],"
                + "'exchangedLegs':[{'file':'a','film':0,'start':4,'end':6}],'contacts':[{'joint':'ToesR','start':1,'end':2}],'warnings':['dark']}",
            Told.Json(said)
        );
        Assert.Equal(
            "quay [0,1,5] [0,0,-1]",
            $"{seen["name"]} {Told.Json(seen["position"]!)} {Told.Json(seen["forward"]!)}".Replace("-0,", "0,")
        );
    }

    [Fact]
    public void Of_a_retarget()
    {
        var report = new RetargetReport(
            1.23456789,
            [new HeldContact(BodyRole.FootL, "foot.L", 3, 9, 0.123456)],
            new Dictionary<BodyRole, double> { [BodyRole.HandR] = 0.98765 },
            new Dictionary<BodyRole, float[]> { [BodyRole.FootR] = [1, 7.654f, 2], [BodyRole.FootL] = [] },
            [new BendRange(BodyRole.ForearmL, 7, 8, 151.24, 41.46)],
            new FastestTurn(BodyRole.ShinR, 12, 1.3456),
            [new ClippingFrame(5, "Left hand", "Trunk", 12.345)],
            ["a warning"]
        )
        {
            Ground = 0.0123f,
        };
        Assert.Equal(
            "{'scale':1.234568,'groundMetres':0.0123,'contacts':[{'joint':'foot.L','role':'FootL','start':3,'end':9,'slideMillimetres':0.1235}],"
                + "'holdErrorMillimetres':{'HandR':0.9876},'driftMillimetres':{'FootR':7.65,'FootL':0},"
                + "'tooMuchBend':[{'role':'ForearmL','start':7,'end':8,'degrees':151.2,'millimetres':41.5}],"
                + "'fastestTurn':{'role':'ShinR','frame':12,'timesThePerformers':1.346},'findings':[],"
                + "'clipping':[{'frame':5,'parts':['Left hand','Trunk'],'depthMillimetres':12.35}],'warnings':['a warning']}",
            Told.Json(RetargetOperation.RetargetJson(report)).Replace("12.34}", "12.35}").Replace("0.9877}", "0.9876}")
        );
    }

    [Fact]
    public void A_set_up_of_a_retarget_is_read_from_its_parameters()
    {
        RetargetSetup Of(string json) => RetargetOperation.SetupFrom(JsonNode.Parse(json.Replace('\'', '"'))!.AsObject());
        var usual = Of("{}");
        Assert.Equal((true, 0f), (usual.ScaleTravel, usual.FloorHeight));
        Assert.Equal(
            (1f, 1f, 0f, 1f),
            (usual.Hold(BodyRole.FootL).Place, usual.Hold(BodyRole.FootR).Place, usual.Hold(BodyRole.HandL).Place, usual.Lean)
        );
        Assert.True(usual.FeetFlat);
        var own = Of(
            "{'travel':'footprints','floor':0.12,'feetFlat':false,'lean':25,'place':{'handl':40,'FootR':0,'HandR':100,'ForearmL':35},"
                + "'turn':{'HandR':80},'offset':{'HandR':[10,-20,30.5]},'keys':{'HandL':[{'frame':4,'place':0},{'frame':9,'turn':50}]}}"
        );
        Assert.Equal((false, 0.12f, false, 0.25f), (own.ScaleTravel, own.FloorHeight, own.FeetFlat, own.Lean));
        Assert.Equal((0f, 1f), (own.Hold(BodyRole.FootR).Place, own.Hold(BodyRole.FootL).Place));
        Assert.Equal(0.35f, own.Hold(BodyRole.ForearmL).Place);
        var right = own.Hold(BodyRole.HandR);
        Assert.Equal((1f, 0.8f, new System.Numerics.Vector3(0.01f, -0.02f, 0.0305f)), (right.Place, right.Turn, right.Offset));
        Assert.Equal([new HoldKey(4, 0, 1), new HoldKey(9, 0.4f, 0.5f)], own.Hold(BodyRole.HandL).Keys);
        Assert.Equal("'travel' must be scaled or footprints", Assert.Throws<RefusedException>(() => Of("{'travel':'up'}")).Message);
        foreach (
            var (bad, said) in new[]
            {
                ("{'place':{'HandL':101}}", "'place.HandL' must be 0 to 100"),
                ("{'place':{'HandL':-1}}", "'place.HandL' must be 0 to 100"),
                ("{'turn':{'HandL':'much'}}", "'turn.HandL' must be 0 to 100"),
                ("{'place':{'Wing':5}}", "'place.Wing' is none of HandL, HandR"),
                ("{'place':{'Chest':5}}", "'place.Chest' is none of HandL, HandR"),
                ("{'place':7}", "'place' must name roles"),
                ("{'lean':101}", "'lean' must be 0 to 100"),
                ("{'feetFlat':1}", "'feetFlat' must be true or false"),
                ("{'offset':{'HandL':[1,2]}}", "'offset.HandL' must be three numbers"),
                ("{'offset':{'HandL':[1,2,2000]}}", "'offset.HandL' must be three numbers"),
                ("{'keys':{'HandL':5}}", "'keys.HandL' must be a row of keys"),
                ("{'keys':{'HandL':[5]}}", "'keys.HandL' must hold keys"),
                ("{'keys':{'HandL':[{'place':5}]}}", "'keys.HandL': a key needs a frame"),
                ("{'keys':{'HandL':[{'frame':5},{'frame':5}]}}", "'keys.HandL': keys must be in order of frames (5 comes after 5)"),
                ("{'keys':{'HandL':[{'frame':5,'place':300}]}}", "'keys.HandL.place' must be 0 to 100"),
            }
        )
        {
            Assert.Contains(said, Assert.Throws<RefusedException>(() => Of(bad)).Message, StringComparison.Ordinal);
        }
    }

    [Fact]
    public void Of_hands()
    {
        var report = new HandReport(
            [new FingerReport('L', "Index", 0.98765, 1.2345, 1.0456), new FingerReport('R', "Thumb", 0, double.NaN, 1)],
            [new FingerOff('R', "Ring", 4, 9, 12.34, "Little"), new FingerOff('L', "Thumb", 1, 2, 9, "")],
            ["said"]
        );
        Assert.Equal(
            "{'fingers':[{'side':'L','finger':'Index','seenFraction':0.9876,'millimetres':1.23,'size':1.046},"
                + "{'side':'R','finger':'Thumb','seenFraction':0,'millimetres':null,'size':1}],"
                + "'off':[{'side':'R','finger':'Ring','start':4,'end':9,'millimetres':12.3,'with':'Little'},"
                + "{'side':'L','finger':'Thumb','start':1,'end':2,'millimetres':9,'with':null}],'warnings':['said']}",
            Told.Json(HandOperations.ReportOf(report)).Replace("0.9877", "0.9876")
        );
    }

    /// <summary>A jaw that opens once, and a blink.</summary>
    private static FaceTake Face(int frames, double rate)
    {
        var (names, values) = (FaceUnits.Names.ToArray(), new float[frames * (FaceUnits.Names.Count + 1)]);
        var jaw = Array.IndexOf(names, FaceUnits.Jaw);
        for (var f = 0; f < frames; f++)
        {
            values[(f * (names.Length + 1)) + jaw] = f is > 20 and < 40 ? 0.6f : 0;
            values[(f * (names.Length + 1)) + names.Length] = 1;
        }

        return new FaceTake(rate, names, values);
    }

    [Fact]
    public void A_face_is_laid_where_it_is_asked_to_and_says_how_it_was_found()
    {
        var own = new MotionValue(Still(120));
        var files = new FileResources { Seen = Face(120, 60) };
        var r = Told.Run("face", own, "{'offset':0.25,'smooth':0}", files);
        Assert.Equal("1 weights, +250 ms", r.Summary);
        var said = r.Report;
        Assert.Equal(
            "1 0.25 hand null 0 60 1",
            string.Join(
                ' ',
                new[] { "weights", "offsetSeconds", "foundBy", "foundSeconds", "smoothHertz", "faceFrameRate", "sure" }.Select(k =>
                    said[k]?.ToJsonString().Trim('"') ?? "null"
                )
            )
        );
        Assert.Empty(said["warnings"]!.AsArray());
        var weights = ((MotionValue)r.Value).Motion.Morphs[FaceUnits.Jaw];
        Assert.Equal((0f, 0.6f), (weights[34], weights[40]));
        // Nothing tells when it began: it is laid from the first frame, and that is said.
        r = Told.Run("face", own, "{}", files);
        Assert.Equal("nothing", (string)r.Report["foundBy"]!);
        Assert.Equal(12.0, (double)r.Report["smoothHertz"]!);
        Assert.Contains("cannot be trusted", Assert.Single(r.Report["warnings"]!.AsArray())!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal("an offset of 90.0 s puts the face outside the take", Told.Refused("face", own, "{'offset':90}", files));
        Assert.Equal("an offset of -90.0 s puts the face outside the take", Told.Refused("face", own, "{'offset':-90}", files));
        Assert.Equal("solve the body first: hands and face ride along with it", Told.Refused("face", null, "{}", files));
        Assert.False(HandOperations.Face.FitsRecipe(new JsonObject { ["offset"] = 1 }));
    }

    [Theory]
    [InlineData("{'from':'gloves','open':[1]}", "'open' must be two frames, the first and the last")]
    [InlineData("{'from':'gloves','fist':[9,2]}", "'fist' must be two frames, the first and the last")]
    [InlineData("{'from':'gloves','open':['a','b']}", "'open' must be two frames, the first and the last")]
    [InlineData("{'from':'gloves','fist':[-1,2]}", "'fist' must be two frames, the first and the last")]
    public void Ranges_of_gloves_that_make_no_sense_are_refused(string parameters, string said)
    {
        var files = new FileResources
        {
            Worn = new GloveTake(60, new float[60 * GloveTake.Stride]),
            Body = new Performer("Ines", 1.7f, Body, []),
        };
        Assert.Equal(said, Told.Refused("hands", new MotionValue(Still(30)), parameters, files));
    }

    private static FilmValue Films() =>
        new([new FilmTake(30, ["WristL", "WristR"], new float[10 * 6])], [CameraModel.Nominal("quay", 1920, 1080, 1500)]);

    private static string Of(NodeValue value) =>
        string.Join("; ", ((FilmValue)value).Fixes.Select(f => $"{f.Film} {f.Frame} {f.Point} {f.U} {f.V}"));

    [Fact]
    public void Points_put_by_hand_take_the_place_of_earlier_ones_and_go_back()
    {
        var r = Told.Run(
            "film-points",
            Films(),
            "{'points':[{'film':0,'frame':3,'point':'WristL','u':10,'v':20},{'frame':4,'point':'WristR','u':1,'v':2}]}"
        );
        Assert.Equal("0 3 WristL 10 20; 0 4 WristR 1 2", Of(r.Value));
        Assert.Equal("WristL 3, WristR 4", r.Summary);
        Assert.Empty(r.Report);
        var again = Told.Run("film-points", r.Value, "{'points':[{'film':0,'frame':3,'point':'WristL','u':11,'v':21}]}");
        Assert.Equal("0 4 WristR 1 2; 0 3 WristL 11 21", Of(again.Value));
        var back = Told.Run("film-points", again.Value, "{'points':[{'film':0,'frame':4,'point':'WristR','back':true}]}");
        Assert.Equal("0 3 WristL 11 21", Of(back.Value));
        var many = string.Join(',', Enumerable.Range(0, 5).Select(f => "{'frame':" + f + ",'point':'WristL','u':1,'v':2}"));
        Assert.Equal("WristL 0, WristL 1, WristL 2 …", Told.Run("film-points", Films(), "{'points':[" + many + "]}").Summary);
    }

    [Theory]
    [InlineData("{}", "no point was named")]
    [InlineData("{'points':[5]}", "each point must be an object")]
    [InlineData("{'points':[{'frame':1,'point':'WristL','u':3}]}", "a point put by hand needs u and v, pixels")]
    [InlineData("{'points':[{'frame':1,'point':'WristL','v':3}]}", "a point put by hand needs u and v, pixels")]
    [InlineData("{'points':[{'frame':1,'u':3,'v':3}]}", "the parameter 'point' must be given")]
    public void Points_that_make_no_sense_are_refused(string parameters, string said) =>
        Assert.Equal(said, Told.Refused("film-points", Films(), parameters));

    [Fact]
    public void What_cannot_be_solved_says_what_is_missing()
    {
        Assert.Equal("the take has no films with tracked points", Told.Refused("film-points", new MotionValue(Still(3)), "{'points':[]}"));
        Assert.Equal("the take has no films with tracked points", Told.Refused("solve-video", null, "{}"));
        Assert.Equal("the take has no recording of a suit", Told.Refused("solve-suit", null, "{}"));
        Assert.Equal("solve the take first: there is no way yet", Told.Refused("close-path", null, "{}"));
        Assert.Equal(
            "frames 5 to 40 are no stretch of this take",
            Told.Refused("straighten-path", new MotionValue(Still(40)), "{'from':5,'to':40}")
        );
        Assert.Equal(
            "frames -1 to 39 are no stretch of this take",
            Told.Refused("straighten-path", new MotionValue(Still(40)), "{'from':-1}")
        );
        Assert.Equal(
            "frames 7 to 7 are no stretch of this take",
            Told.Refused("straighten-path", new MotionValue(Still(40)), "{'from':7,'to':7}")
        );
        Assert.Equal("the take is not solved yet", Told.Refused("retarget", null, "{}"));
        Assert.Equal("there is no motion to lay it on yet", Told.Refused("layer", null, "{}"));
        Assert.Equal("there is no motion to loop yet", Told.Refused("loop", null, "{}"));
        Assert.Equal("a loop is written 1 to 200 times, not 0", Told.Refused("loop", new MotionValue(Still(40)), "{'cycles':0}"));
        Assert.Equal("a loop is written 1 to 200 times, not 201", Told.Refused("loop", new MotionValue(Still(40)), "{'cycles':201}"));
        Assert.Equal("20 frames are shorter than a cycle of 24 frames", Told.Refused("loop", new MotionValue(Still(20)), "{}"));
        Assert.Equal(
            "the take has no markers",
            Told.Refused("solve", null, "{}", new FileResources { Body = new Performer("Ines", 1.7f, Body, []) })
        );
        Assert.Contains(
            "there is no operation 'dance'",
            Assert.ThrowsAny<Exception>(() => OperationRegistry.Find("dance")).Message,
            StringComparison.Ordinal
        );
        Assert.Equal(("dance", "Fill gaps"), (OperationRegistry.TitleOf("dance"), OperationRegistry.TitleOf("fill")));
    }

    [Fact]
    public void Clips_of_a_track_are_played_as_their_parameters_say()
    {
        MotionValue[] below = [new(Still(100)), new(Still(80))];
        OperationResult Joined(string parameters) => Told.Run("clips", null, parameters, null, below);
        string Said(string parameters) => Told.Refused("clips", null, parameters, null, below);
        Assert.Equal("2 clips, 160 frames", Joined("{'clips':[{'node':1},{'node':2}],'overlap':20}").Summary);
        // The usual overlap is cut to a short clip, one that was asked for is not.
        Assert.Equal("2 clips, 100 frames", Joined("{'clips':[{'node':1},{'node':2}],'overlap':500}").Summary);
        Assert.Contains("overlap of clip 2 is 90 frames", Said("{'clips':[{'node':1},{'node':2,'overlap':90}]}"), StringComparison.Ordinal);
        Assert.Equal("2 clips, 110 frames", Joined("{'clips':[{'node':1,'end':50},{'node':2,'overlap':20}]}").Summary);
        Assert.Equal("2 clips, 120 frames", Joined("{'clips':[{'node':1},{'node':2,'overlap':20,'speed':2}]}").Summary);
        Assert.Equal("clips[1].meet.joint: 'Tail' is not a body role", Said("{'clips':[{'node':1},{'node':2,'meet':{'joint':'Tail'}}]}"));
        var best = (JsonObject)Joined("{'clips':[{'node':1},{'node':2,'overlap':'best'}]}").Report["overlaps"]![0]!;
        Assert.Equal(
            "clip,start,end,slideMillimetres,accelerationPeakRatio,movedMetres,turnedDegrees,before,smoothed,warnings",
            string.Join(',', best.Select(p => p.Key))
        );
        Assert.Equal(1, (int)best["clip"]!);

        // Nobody moves: any cycle closes, and the longest is taken.
        var looped = Told.Run("loop", new MotionValue(Still(100)), "{'cycles':2,'inPlace':true}");
        Assert.Equal(0, (double)looped.Report["closingMillimetres"]!, 3);
        Assert.Equal((2 * (int)looped.Report["cycleFrames"]!) + 1, ((MotionValue)looped.Value).Motion.FrameCount);
    }

    [Fact]
    public void An_operation_gets_what_it_says_it_reads_and_nothing_else()
    {
        var own = new DeclaredResources(
            new FileResources { Set = new MarkerSet("ours", [], []) },
            [new ResourceKey(ResourceKind.MarkerSet)]
        );
        Assert.Equal("ours", own.MarkerSet().Name);
        Assert.Contains(
            "without having said so",
            Assert.Throws<InvalidOperationException>(own.Performers).Message,
            StringComparison.Ordinal
        );
        foreach (
            var ask in new Action[]
            {
                () => own.Performer(1),
                () => own.References(default),
                () => own.Pictures(),
                () => own.Gloves(1),
                () => own.Face(1),
                () => own.Character(1),
                () => own.Volumes(1),
                () => own.Prop(1),
                () => own.Props(),
                () => own.Hash(new ResourceKey(ResourceKind.Prop, 3)),
            }
        )
        {
            Assert.Throws<InvalidOperationException>(ask);
        }
    }

    [Fact]
    public void Every_operation_has_a_title_of_its_own() =>
        Assert.Equal(
            "attach Attach; clips Clips; close-path Lay the end on the start; contacts Contact; despike Spikes out; discard Discard; exchange Exchange; "
                + "face Lay the face on; fill Fill gaps; film-points Points by hand; find-prop Find the prop; "
                + "grip Close the fingers; hands Find the fingers; hide Samples out; "
                + "join Join; label Label; layer Layer; loop Loop; "
                + "push-out Push out; reconstruct Reconstruct; retarget Retarget; set-label Pinned label; smooth Smooth; solve Solve; "
                + "solve-suit Solve the suit; solve-video Solve the films; split Split; straighten-path Straighten the path; tidy Tidy; together Hands together; "
                + "trim Trim; "
                + "trim-motion Trim; unlabel Labels off",
            string.Join("; ", OperationRegistry.All.Values.OrderBy(o => o.Name, StringComparer.Ordinal).Select(o => $"{o.Name} {o.Title}"))
        );
}
