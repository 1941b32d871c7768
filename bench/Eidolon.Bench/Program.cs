using System.Numerics;
using Eidolon.Bench;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats.Bvh;
using Eidolon.Core.Formats.C3d;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Labelling;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

// live [MINUTES] [DATA] and kills [COUNT] [DATA] [KIND] run the studio in a process of its own; DATA is a folder with the demo production.
if (args is ["live" or "kills", ..])
{
    var data = args.Length > 2 ? args[2] : Path.Combine(Path.GetTempPath(), "eidolon-bench-demo");
    await (await StudioProcess.Start(data, demo: true)).DisposeAsync();
    var amount =
        args.Length > 1 ? double.Parse(args[1], System.Globalization.CultureInfo.InvariantCulture)
        : args[0] == "live" ? 10
        : 20;
    await (
        args[0] == "live"
            ? StageLoad.Live(data, amount)
            : Eidolon.Bench.Kills.KillLoad.Run(data, (int)amount, args.Length > 3 ? args[3] : null)
    );
    return 0;
}

// long [DATA] opens a ten-minute take in headless Chromium.
if (args is ["long", ..])
{
    await LongTake.Run(args.Length > 1 ? args[1] : Path.Combine(Path.GetTempPath(), "eidolon-bench-demo"));
    return 0;
}

// steps [MINUTES] [DATA]: two performers through every Step; hour [MINUTES] [DATA]: through Label and Clean; board [DATA]: five hundred takes.
if (args is ["steps" or "hour" or "board", ..])
{
    var data =
        args is ["board", var folderOf] ? folderOf
        : args.Length > 2 ? args[2]
        : Path.Combine(Path.GetTempPath(), "eidolon-bench-demo");
    var minutes =
        args[0] != "board" && args.Length > 1 ? double.Parse(args[1], System.Globalization.CultureInfo.InvariantCulture)
        : args[0] == "hour" ? 60
        : 10;
    await (args[0] == "board" ? BoardLoad.Run(data) : LongSteps.Run(data, minutes, args[0] == "steps"));
    return 0;
}

// fuzz [MINUTES] [FORMAT] [LEAST]: files made wrong, every reader; failing inputs are put into ./fuzz.
if (args is ["fuzz", ..])
{
    var minutes = args.Length > 1 ? double.Parse(args[1], System.Globalization.CultureInfo.InvariantCulture) : 10;
    var least = args.Length > 3 ? long.Parse(args[3], System.Globalization.CultureInfo.InvariantCulture) : 0;
    return Eidolon.Bench.Fuzz.FuzzRun.Run(minutes, args.Length > 2 && args[2] != "all" ? args[2] : null, "fuzz", least) > 0 ? 1 : 0;
}

// truth [PART] [RATE]: how near the methods come to the truth, scene by scene, on strangers, other rates and the lent recording.
if (args is ["truth", ..])
{
    return Eidolon.Bench.Truth.TruthRun.Run(
        args.Length > 1 ? args[1] : null,
        args.Length > 2 ? double.Parse(args[2], System.Globalization.CultureInfo.InvariantCulture) : null
    );
}

Console.WriteLine("One process, one thread unless said; best of five rounds. The machine is shared: compare figures of one run.");
if (ReferenceProblem.Folder() is { } folder)
{
    var problem = ReferenceProblem.Load(folder);
    (double Rms, double Solves) answer = default;
    Measure.Frames("marker solve, reference problem", problem.Frames, 120, () => answer = problem.Solve());
    Console.WriteLine(
        $"    residual {answer.Rms:0.000000} mm a coordinate (best known 0.785124), {answer.Solves:0.00} linear solves a frame"
    );
    var points = TriangulateProblem.Load(folder);
    double rms = 0;
    var seconds = Measure.Best(() => rms = points.Solve());
    Console.WriteLine($"{"triangulation, reference problem", -46} {points.Points / seconds / 1e6, 12:0.00} million points/s");
    Console.WriteLine($"    {rms:0.0000} mm from the truth (best known 0.3258)");
}

var person = HarbourCast.Ines;
var walk = SceneCatalog.Perform("lamp-walk", person, 1).Actors[0].Motion;
using var bvhStream = new MemoryStream();
BvhWriter.Write(bvhStream, walk);
var bvh = bvhStream.ToArray();
double sink = 0;
var floor = Measure.Best(() => sink += NumberScan.Sum(bvh));
Measure.Bytes("BVH reading", bvh, () => BvhReader.Read(bvh, "walk.bvh"), floor);
var performance = SceneCatalog.Perform("lamp-walk", person, 1);
var seen = MarkerSimulator.Labelled(performance);
using var c3dStream = new MemoryStream();
C3dWriter.Write(c3dStream, new C3dDocument(seen));
var c3d = c3dStream.ToArray();
var copy = Measure.Best(() => sink += c3d.AsSpan().Count((byte)7));
Console.WriteLine($"{"C3D reading", -46} {c3d.Length / 1e6 / Measure.Best(() => C3dReader.Read(c3d, "walk.c3d")), 12:N0} MB/s");
var turns = new Quaternion[walk.Skeleton.Count];
var places = new Vector3[walk.Skeleton.Count];
Measure.Frames("forward kinematics, 22 joints", walk.FrameCount, 120, () =>
{
    for (var f = 0; f < walk.FrameCount; f++)
    {
        ForwardKinematics.World(walk, f, turns, places);
    }
});
var rom = MarkerSimulator.Labelled(SceneCatalog.Perform("rom", person, 1));
Performer performer = null!;
Console.WriteLine(
    $"{"calibration from a ROM take (all cores)", -46} {Measure.Best(() => performer = PerformerCalibration.Calibrate("Ines", rom, HarbourMarkers.Set()).Performer, 1), 12:0.0} s"
);
Measure.Frames("solve, 53 markers, 22 joints", seen.FrameCount, 120, () => TakeSolver.Solve(performer, seen), 3);
var subject = LabelSubject.From(null, performer, rom);
var dots = DotMaker.Make(seen, 1, out _);
Measure.Frames("label, 53 markers", dots.FrameCount, 120, () => TakeLabeller.Label(dots, HarbourMarkers.Set(), [subject]), 2);
LabelLoad.Run();
foreach (var name in HarbourCharacters.Names)
{
    var character = RoleFinder.Assign(
        GltfReader.GltfBindingOf(GltfReader.Open(HarbourCharacters.Build(name), name), name).Skeleton,
        null,
        name
    );
    Measure.Frames($"retarget to {name}", walk.FrameCount, 120, () => Retargeter.Retarget(walk, character));
}

GC.KeepAlive(sink + copy);
return 0;
