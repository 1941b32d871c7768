using System.CommandLine;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Assembly;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;

namespace Eidolon.Cli.Verbs;

/// <summary>Clips, overlaps, a loop and layers of a plan, baked to one motion; files are relative to the plan.</summary>
internal static class AssembleVerb
{
    public static Command Create()
    {
        var plan = new Argument<string>("PLAN");
        var output = Options.Out();
        var json = Options.Json();
        var command = new Command("assemble", "Clips, overlaps and layers baked to one motion.") { plan, output, json };
        command.SetAction(p => Run(p.GetRequiredValue(plan), Options.Motion(p.GetRequiredValue(output)), p.GetValue(json)));
        return command;
    }

    private static int Run(string planPath, string output, string? json)
    {
        var plan = AssemblyPlanJson.Read(InputFile.Read(planPath), planPath);
        var folder = Path.GetDirectoryName(Path.GetFullPath(planPath))!;
        var warnings = new List<string>();
        var clips = Read(plan, planPath, folder, warnings);
        Motion motion;
        BakedMotion baked;
        try
        {
            baked = ClipJoiner.Join(clips, new ConsoleProgress("assembling"));
            // Its frames count from 0, wherever in its file the first clip began.
            motion = (plan.InPlace ? MotionEdits.InPlace(baked.Motion) : baked.Motion).From(0);
        }
        catch (RefusedException e)
        {
            throw new InvalidInputException(planPath, "clips", e.Message, e);
        }

        motion = Followed(motion, plan, planPath);
        MotionFiles.WriteMotion(output, motion);
        warnings.AddRange(baked.Overlaps.SelectMany(o => o.Warnings()));
        var report = new JsonObject
        {
            ["frames"] = motion.FrameCount,
            ["frameRate"] = motion.FrameRate,
            ["overlaps"] = new JsonArray([.. baked.Overlaps.Select(o => (JsonNode)Told(o))]),
            ["warnings"] = Report.Array(warnings),
        };
        Report.Write(
            json,
            report,
            [
                $"{output}: {motion.FrameCount} frames from {clips.Count} clips",
                .. baked.Overlaps.Select(o =>
                    $"clip {o.Clip + 1} from {o.Start} to {o.End}: slides {o.SlideMillimetres:0.0} mm a planted frame, accelerates {o.AccelerationPeakRatio:0.00} times the clips' own"
                ),
                .. warnings.Select(w => "warning: " + w),
            ]
        );
        return ExitCodes.Done;
    }

    private static JsonObject Told(OverlapReport o) =>
        new()
        {
            ["clip"] = o.Clip,
            ["start"] = o.Start,
            ["end"] = o.End,
            ["slideMillimetres"] = Report.Number(o.SlideMillimetres),
            ["accelerationPeakRatio"] = Report.Number(o.AccelerationPeakRatio),
            ["accelerationPeakRatioBefore"] = Report.Number(o.AccelerationPeakRatioBefore),
            ["movedMetres"] = Report.Number(o.MovedMetres),
            ["turnedDegrees"] = Report.Number(o.TurnedDegrees, 2),
        };

    private static List<PlannedClip> Read(AssemblyPlan plan, string planPath, string folder, List<string> warnings)
    {
        var files = new Dictionary<string, Motion>(StringComparer.Ordinal);
        var rate = plan.FrameRate;
        var clips = new List<PlannedClip>();
        for (var i = 0; i < plan.Clips.Count; i++)
        {
            var (clip, place) = (plan.Clips[i], $"clips[{i}]");
            var path = Path.Combine(folder, clip.File);
            if (!files.TryGetValue(path, out var motion))
            {
                files[path] = motion = Roles(ReadClip(path, clip.File, planPath, place));
                warnings.AddRange(motion.Warnings.Select(w => $"{clip.File}: {w}"));
            }

            if (clip.Start >= motion.FrameCount || clip.End > motion.FrameCount)
            {
                throw new InvalidInputException(
                    planPath,
                    clip.Start >= motion.FrameCount ? place + ".start" : place + ".end",
                    $"{clip.File} has {motion.FrameCount} frames"
                );
            }

            var cut = MotionEdits.Range(motion, clip.Start, clip.End ?? motion.FrameCount);
            rate ??= motion.FrameRate;
            clips.Add(new PlannedClip(new ClipMotion(MotionEdits.Resample(cut, rate.Value)), clip.Play));
        }

        return clips;
    }

    /// <summary>A clip that is missing is the plan's fault, one that is broken its own.</summary>
    private static Motion ReadClip(string path, string name, string planPath, string place) =>
        File.Exists(path)
            ? MotionFiles.ReadMotion(path)
            : throw new InvalidInputException(planPath, place + ".file", $"there is no file '{name}'");

    private static Motion Roles(Motion motion)
    {
        var guess = RoleFinder.Find(motion.Skeleton);
        return guess.Complete ? motion.On(motion.Skeleton.WithRoles(guess.Roles)) : motion;
    }

    /// <summary>The loop and the layers over the clips.</summary>
    private static Motion Followed(Motion motion, AssemblyPlan plan, string planPath)
    {
        var layers = plan.Layers.Select((l, i) => (Place: $"layers[{i}]", Entry: SceneOperations.Layer.Entry(l)));
        var loop = plan.Loop is { } said ? [("loop", SceneOperations.Loop.Entry(said))] : Array.Empty<(string, Entry)>();
        foreach (var (place, entry) in loop.Concat(layers))
        {
            try
            {
                var (value, _) = EntryRunner.Run(new MotionValue(motion), [entry], new OperationContext(new FileResources()));
                motion = ((MotionValue)value).Motion;
            }
            catch (Exception e) when (e is ArgumentException or RefusedException or InvalidOperationException or FormatException)
            {
                throw new InvalidInputException(planPath, place, e.Message, e);
            }
        }

        return motion;
    }
}
