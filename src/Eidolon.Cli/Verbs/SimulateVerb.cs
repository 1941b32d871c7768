using System.CommandLine;
using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.C3d;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Hands;
using Eidolon.Core.Inertial;
using Eidolon.Core.Markers;
using Eidolon.Core.Optical;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.Devices;
using Eidolon.StandIns.Inertial;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.StandIns.Video;

namespace Eidolon.Cli.Verbs;

/// <summary>The stand-in devices perform a scenario: their raw streams, and the truth beside.</summary>
internal static class SimulateVerb
{
    private const string Characters = "characters";

    /// <summary>The face's tracker begins so many seconds after the ring.</summary>
    private const double FaceLate = 0.083;

    public static Command Create()
    {
        var scenario = new Argument<string>("SCENARIO")
        {
            Description =
                $"One of {string.Join(", ", SceneCatalog.Names)}, {RingStandIn.WandScene}, {RingStandIn.GroundScene}, {Characters}, or a take's name.",
        };
        var output = new Option<string>("--out") { Required = true, Description = "Folder." };
        var performer = new Option<string?>("--performer") { Description = "Ines or Tobi." };
        var take = new Option<int>("--take") { DefaultValueFactory = _ => 1 };
        var json = Options.Json();
        var command = new Command("simulate", "The stand-in devices perform a scenario.") { scenario, output, performer, take, json };
        command.SetAction(p =>
            Run(p.GetRequiredValue(scenario), p.GetRequiredValue(output), p.GetValue(performer), p.GetValue(take), p.GetValue(json))
        );
        return command;
    }

    /// <summary>The characters of the production, each as a file of its own.</summary>
    private static int WriteCharacters(string folder, string? json)
    {
        Directory.CreateDirectory(folder);
        string[] files = [.. HarbourCharacters.All.Select(n => n.ToLowerInvariant().Replace(' ', '-') + ".glb")];
        foreach (var (name, file) in HarbourCharacters.All.Zip(files))
        {
            AtomicFile.Write(Path.Combine(folder, file), s => s.Write(HarbourCharacters.Build(name)));
        }

        // One without a rig, to try binding on.
        var bare = HarbourCharacters.Names[0].ToLowerInvariant() + "-bare.glb";
        var mesh = GltfSkinWriter.WriteBare(HarbourCharacters.Figure(HarbourCharacters.Names[0]).Figure, bare, Matrix4x4.Identity);
        AtomicFile.Write(Path.Combine(folder, bare), s => s.Write(mesh));
        files = [.. files, bare];

        Report.Write(
            json,
            new JsonObject
            {
                ["scenario"] = Characters,
                ["files"] = Report.Array(files),
                ["warnings"] = new JsonArray(),
            },
            $"{folder}: {string.Join(", ", files)}"
        );
        return ExitCodes.Done;
    }

    private static int Run(string scenario, string folder, string? who, int take, string? json)
    {
        if (scenario == Characters)
        {
            return WriteCharacters(folder, json);
        }

        var wand = scenario is RingStandIn.WandScene or RingStandIn.GroundScene;
        var name = wand
            ? scenario
            : SceneCatalog.Names.FirstOrDefault(n =>
                scenario.Equals(n, StringComparison.OrdinalIgnoreCase) || scenario.Contains($"_{n}_", StringComparison.OrdinalIgnoreCase)
            )
                ?? throw new UsageException(
                    $"there is no scenario '{scenario}' (there are {string.Join(", ", SceneCatalog.Names)}, "
                        + $"{RingStandIn.WandScene}, {RingStandIn.GroundScene}, {Characters})"
                );
        if (
            who is not null
            && !who.Equals("Ines", StringComparison.OrdinalIgnoreCase)
            && !who.Equals("Tobi", StringComparison.OrdinalIgnoreCase)
        )
        {
            throw new UsageException("--performer Ines or Tobi");
        }

        Directory.CreateDirectory(folder);
        var files = new List<string>();
        string P(string file)
        {
            files.Add(file);
            return Path.Combine(folder, file);
        }

        var ring = HarbourRing.True();
        AtomicFile.WriteText(P("cameras-nominal.json"), CameraRingJson.Write(new CameraRing(HarbourRing.Nominal)) + "\n");
        AtomicFile.WriteText(P("cameras-truth.json"), CameraRingJson.Write(ring) + "\n");
        if (wand)
        {
            var pictures = new RingStandIn().Pictures(name, HarbourCast.Ines, take);
            AtomicFile.Write(P("centroids.csv"), s => CentroidCsv.Write(s, pictures));
            Report.Write(
                json,
                new JsonObject
                {
                    ["scenario"] = name,
                    ["take"] = take,
                    ["frames"] = pictures.FrameCount,
                    ["frameRate"] = pictures.FrameRate,
                    ["files"] = Report.Array(files),
                    ["warnings"] = new JsonArray(),
                },
                $"{folder}: {name}, {pictures.FrameCount} frames of 2D centroids"
            );
            return ExitCodes.Done;
        }

        var person = HarbourCast.Find(who ?? SceneCatalog.DefaultPerformer(name));
        var performance = SceneCatalog.Perform(name, person, take);
        var seen = MarkerSimulator.Labelled(performance);
        var dots = DotMaker.Make(seen, take, out var truth);
        AtomicFile.Write(P("raw.c3d"), s => C3dWriter.Write(s, new C3dDocument(dots)));
        AtomicFile.Write(P("labelled.c3d"), s => C3dWriter.Write(s, new C3dDocument(seen)));
        var markers = MarkerSimulator.TruthWithProps(performance, 0.006f);
        AtomicFile.Write(P("truth.c3d"), s => C3dWriter.Write(s, new C3dDocument(markers)));
        AtomicFile.Write(P("centroids.csv"), s => CentroidCsv.Write(s, PictureSimulator.See(performance, markers, ring)));
        foreach (var (actor, i) in performance.Actors.Select((a, i) => (a, i)))
        {
            MotionFiles.WriteMotion(P(i == 0 ? "truth.bvh" : $"truth-{actor.Person.Name.ToLowerInvariant()}.bvh"), actor.Motion);
        }

        AtomicFile.WriteText(P("witness-cameras.json"), CameraRingJson.Write(new CameraRing(WitnessSimulator.Cameras)) + "\n");
        Tables(P, name, person, take);
        var hands = HandSkeleton.HasFingers(performance.Actors[0].Motion.Skeleton);
        AtomicFile.WriteText(P("marker-set.json"), MarkerSetJson.Write(HarbourMarkers.Set(hands: hands)) + "\n");
        var report = Truth(name, person, take, performance, seen, files, dots, truth);
        AtomicFile.WriteText(P("truth.json"), report.ToJsonString() + "\n");
        Report.Write(
            json,
            report,
            $"{folder}: {name} by {string.Join(" and ", performance.Actors.Select(a => a.Person.Name))}, "
                + $"{seen.FrameCount} frames, {dots.MarkerCount} raw trajectories"
        );
        return ExitCodes.Done;
    }

    private static JsonObject Truth(
        string name,
        Person person,
        int take,
        Performance performance,
        MarkerTake seen,
        List<string> files,
        MarkerTake dots,
        string?[] truth
    ) =>
        new()
        {
            ["scenario"] = name,
            ["performer"] = person.Name,
            ["performers"] = Report.Array(performance.Actors.Select(a => a.Person.Name)),
            ["props"] = Report.Array(performance.Props.Select(p => p.Body.Name)),
            ["take"] = take,
            ["frames"] = seen.FrameCount,
            ["frameRate"] = seen.FrameRate,
            ["files"] = Report.Array([.. files, "truth.json"]),
            ["dots"] = new JsonObject(dots.Names.Select((n, i) => KeyValuePair.Create(n, (JsonNode?)truth[i]))),
            ["plants"] = new JsonArray([
                .. performance
                    .Actors[0]
                    .Plants.Select(x =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["foot"] = x.Foot.ToString(),
                                ["start"] = x.Start,
                                ["end"] = x.End,
                            }
                    ),
            ]),
            ["warnings"] = new JsonArray(),
        };

    /// <summary>What suit and witness cameras send, as tables.</summary>
    private static void Tables(Func<string, string> path, string name, Person person, int take)
    {
        var slow = SceneCatalog.Perform(name, person, take, SuitSensors.Rate);
        var suit = SuitSimulator.Measure(slow.Actors[0], person.Seed);
        AtomicFile.Write(path("suit.csv"), s => SuitCsv.Write(s, new SuitTake(SuitSensors.Rate, suit)));
        if (slow.Face is { } face)
        {
            var gloves = GloveSimulator.Measure(slow.Actors[0].Motion, (person.Seed * 7) + take);
            AtomicFile.Write(path("gloves.csv"), s => GloveCsv.Write(s, gloves));
            var seen = FaceSimulator.See(face, slow.Seconds, FaceLate, (person.Seed * 7) + take);
            AtomicFile.Write(path("face.csv"), s => FaceCsv.Write(s, seen));
        }

        var witnessed = SceneCatalog.Perform(name, person, take, WitnessPoints.Rate);
        for (var c = 0; c < WitnessSimulator.Cameras.Count; c++)
        {
            var seen = WitnessSimulator.See(witnessed, c, (take * 31) + c);
            AtomicFile.Write(path($"witness-{c + 1}.csv"), s =>
                SampleTableCsv.Write(s, WitnessPoints.Rate, "px", WitnessPoints.Columns, seen, WitnessPoints.Values)
            );
        }
    }
}
