using System.CommandLine;
using System.Text.Json.Nodes;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.C3d;
using Eidolon.Core.Formats.Json;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Cli.Verbs;

/// <summary>The stand-in devices perform a scenario: what they see, and the truth beside.</summary>
internal static class SimulateVerb
{
    public static Command Create()
    {
        var scenario = new Argument<string>("SCENARIO") { Description = $"One of {string.Join(", ", SceneCatalog.Names)}, or a take's name." };
        var output = new Option<string>("--out") { Required = true, Description = "Folder." };
        var performer = new Option<string?>("--performer") { Description = "Ines or Tobi." };
        var take = new Option<int>("--take") { DefaultValueFactory = _ => 1 };
        var json = Options.Json();
        var command = new Command("simulate", "The stand-in devices perform a scenario.") { scenario, output, performer, take, json };
        command.SetAction(p => Run(p.GetRequiredValue(scenario), p.GetRequiredValue(output), p.GetValue(performer), p.GetValue(take), p.GetValue(json)));
        return command;
    }

    private static int Run(string scenario, string folder, string? who, int take, string? json)
    {
        var name = SceneCatalog.Names.FirstOrDefault(n => scenario.Equals(n, StringComparison.OrdinalIgnoreCase) || scenario.Contains($"_{n}_", StringComparison.OrdinalIgnoreCase))
            ?? throw new UsageException($"there is no scenario '{scenario}' (there are {string.Join(", ", SceneCatalog.Names)})");
        if (who is not null && !who.Equals("Ines", StringComparison.OrdinalIgnoreCase) && !who.Equals("Tobi", StringComparison.OrdinalIgnoreCase))
        {
            throw new UsageException("--performer Ines or Tobi");
        }

        var person = HarbourCast.Find(who ?? SceneCatalog.DefaultPerformer(name));
        var performance = SceneCatalog.Perform(name, person, take);
        var seen = MarkerSimulator.Labelled(performance);
        var dots = DotMaker.Make(seen, take, out var truth);
        Directory.CreateDirectory(folder);
        string P(string file) => Path.Combine(folder, file);
        AtomicFile.Write(P("raw.c3d"), s => C3dWriter.Write(s, new C3dDocument(dots)));
        AtomicFile.Write(P("labelled.c3d"), s => C3dWriter.Write(s, new C3dDocument(seen)));
        MotionFiles.WriteMotion(P("truth.bvh"), performance.Actors[0].Motion);
        AtomicFile.WriteText(P("marker-set.json"), MarkerSetJson.Write(HarbourMarkers.Set()) + "\n");
        var report = new JsonObject
        {
            ["scenario"] = name, ["performer"] = person.Name, ["take"] = take, ["frames"] = seen.FrameCount, ["frameRate"] = seen.FrameRate,
            ["files"] = Report.Array(["raw.c3d", "labelled.c3d", "truth.bvh", "marker-set.json"]),
            ["dots"] = new JsonObject(dots.Names.Select((n, i) => KeyValuePair.Create(n, (JsonNode?)truth[i]))),
            ["plants"] = new JsonArray([.. performance.Actors[0].Plants.Select(x => (JsonNode)new JsonObject { ["foot"] = x.Foot.ToString(), ["start"] = x.Start, ["end"] = x.End })]), ["warnings"] = new JsonArray(),
        };
        AtomicFile.WriteText(P("truth.json"), report.ToJsonString() + "\n");
        Report.Write(json, report, $"{folder}: {name} by {person.Name}, {seen.FrameCount} frames, {dots.MarkerCount} raw trajectories");
        return ExitCodes.Done;
    }
}
