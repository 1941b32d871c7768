using System.CommandLine;
using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core.Assembly;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;

namespace Eidolon.Cli.Verbs;

/// <summary>
/// Clips baked to one motion. The plan: { "overlap": frames, "clips": [{ "file", "start", "end" }], "layers": [{ "joint", "weight", "keys": [{
/// "frame", "x", "y", "z", "release" }] }] };
/// files are relative to the plan.
/// </summary>
internal static class AssembleVerb
{
    public static Command Create()
    {
        var plan = new Argument<string>("PLAN");
        var output = Options.Out();
        var json = Options.Json();
        var command = new Command("assemble", "Clips, overlaps and layers baked to one motion.") { plan, output, json };
        command.SetAction(p => Run(p.GetRequiredValue(plan), p.GetRequiredValue(output), p.GetValue(json)));
        return command;
    }

    private static int Run(string planPath, string output, string? json)
    {
        JsonObject plan;
        try
        {
            plan =
                JsonNode.Parse(InputFile.Read(planPath)) as JsonObject
                ?? throw new Core.InvalidInputException(planPath, "plan", "an object is expected");
        }
        catch (JsonException e)
        {
            throw new Core.InvalidInputException(planPath, $"line {(e.LineNumber ?? 0) + 1}", "the JSON cannot be read", e);
        }

        try
        {
            var folder = Path.GetDirectoryName(Path.GetFullPath(planPath))!;
            var clips = (plan["clips"] as JsonArray ?? []).Select(c => Clip(c, folder)).ToList();
            var baked =
                clips.Count > 1 ? ClipJoiner.Join([.. clips.Select(c => new ClipMotion(c))], plan["overlap"]?.GetValue<int>() ?? 36)
                : clips.Count == 1 ? new BakedMotion(clips[0], [], [])
                : throw new ArgumentException("'clips' is empty");
            var layers = (plan["layers"] as JsonArray ?? []).Select(l =>
                SceneOperations.Layer.Entry(l as JsonObject ?? throw new ArgumentException("each layer must be an object"))
            );
            var (value, _) = EntryRunner.Run(new MotionValue(baked.Motion), [.. layers], new OperationContext(new FileResources()));
            var motion = ((MotionValue)value).Motion;
            MotionFiles.WriteMotion(output, motion);
            var report = new JsonObject
            {
                ["frames"] = motion.FrameCount,
                ["warnings"] = new JsonArray(),
                ["overlaps"] = new JsonArray([
                    .. baked.Overlaps.Select(o =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["start"] = o.Start,
                                ["end"] = o.End,
                                ["slideMillimetres"] = Report.Number(o.SlideMillimetres),
                            }
                    ),
                ]),
            };
            Report.Write(json, report, $"{output}: {motion.FrameCount} frames from {clips.Count} clips");
            return ExitCodes.Done;
        }
        catch (Exception e) when (e is ArgumentException or Core.RefusedException or InvalidOperationException or FormatException)
        {
            throw new Core.InvalidInputException(planPath, "plan", e.Message, e);
        }
    }

    private static Motion Clip(JsonNode? node, string folder)
    {
        var o = node as JsonObject ?? throw new ArgumentException("each clip must be an object");
        var motion = MotionFiles.ReadMotion(
            Path.Combine(folder, o["file"]?.GetValue<string>() ?? throw new ArgumentException("a clip has no 'file'"))
        );
        var guess = RoleFinder.Find(motion.Skeleton);
        motion = guess.Complete ? motion.On(motion.Skeleton.WithRoles(guess.Roles)) : motion;
        var start = Math.Clamp(o["start"]?.GetValue<int>() ?? 0, 0, motion.FrameCount - 2);
        var end = Math.Clamp(o["end"]?.GetValue<int>() ?? motion.FrameCount, start + 2, motion.FrameCount);
        return (start, end) == (0, motion.FrameCount) ? motion : MotionEdits.Range(motion, start, end);
    }
}
