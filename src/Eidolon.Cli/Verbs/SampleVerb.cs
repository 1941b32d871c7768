using System.CommandLine;
using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Formats;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Cli.Verbs;

/// <summary>World-space values of a file.</summary>
internal static class SampleVerb
{
    public static Command Create()
    {
        var file = new Argument<string>("FILE");
        var frames = Options.Frames();
        var unitScale = Options.UnitScale();
        var json = Options.Json();
        var command = new Command("sample", "World-space values, as JSON (to stdout unless --json names a file).")
        {
            file,
            frames,
            unitScale,
            json,
        };
        command.SetAction(p => Run(p.GetRequiredValue(file), p.GetValue(frames), Options.Scale(p.GetValue(unitScale)), p.GetValue(json)));
        return command;
    }

    private static int Run(string path, string? frames, double? unitScale, string? json)
    {
        var bytes = InputFile.Read(path);
        var report = MotionFiles.KindOf(path, bytes) is FileKind.C3d or FileKind.Csv
            ? Points(MotionFiles.ReadMarkers(bytes, path).Take, frames)
            : Joints(MotionFiles.ReadMotion(bytes, path, unitScale, InputFile.FolderOf(path)), frames);
        Report.Write(json ?? "-", report);
        return ExitCodes.Done;
    }

    private static JsonObject Points(MarkerTake take, string? frames)
    {
        var (start, end, step) = Options.Range(frames, take.FrameCount);
        var list = new JsonArray();
        for (var f = start; f < end; f += step)
        {
            list.Add(
                (JsonNode)
                    new JsonObject
                    {
                        ["frame"] = f,
                        ["positions"] = new JsonArray([
                            .. take.At(f).ToArray().Select(p => MarkerTake.Seen(p) ? (JsonNode)Report.Vector(p) : null),
                        ]),
                    }
            );
        }

        return new JsonObject
        {
            ["frameRate"] = Math.Round(take.FrameRate, 6),
            ["names"] = Report.Array(take.Names),
            ["frames"] = list,
            ["warnings"] = Report.Array(take.Warnings),
        };
    }

    private static JsonObject Joints(Motion motion, string? frames)
    {
        var (start, end, step) = Options.Range(frames, motion.FrameCount);
        var turns = new Quaternion[motion.Skeleton.Count];
        var places = new Vector3[motion.Skeleton.Count];
        var list = new JsonArray();
        for (var f = start; f < end; f += step)
        {
            ForwardKinematics.World(motion, f, turns, places);
            list.Add(
                (JsonNode)
                    new JsonObject
                    {
                        ["frame"] = f,
                        ["positions"] = new JsonArray([.. places.Select(p => (JsonNode)Report.Vector(p))]),
                        ["rotations"] = new JsonArray([.. turns.Select(q => (JsonNode)Report.Quaternion(Quaternion.Normalize(q)))]),
                    }
            );
        }

        return new JsonObject
        {
            ["frameRate"] = Math.Round(motion.FrameRate, 6),
            ["names"] = Report.Array(motion.Skeleton.Joints.Select(j => j.Name)),
            ["frames"] = list,
            ["warnings"] = Report.Array(motion.Warnings),
        };
    }
}
