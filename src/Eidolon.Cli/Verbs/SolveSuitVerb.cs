using System.CommandLine;
using System.Text.Json.Nodes;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Inertial;
using Eidolon.Core.Skeletons;

namespace Eidolon.Cli.Verbs;

/// <summary>A suit's recording to a motion.</summary>
internal static class SolveSuitVerb
{
    public static Command Create()
    {
        var input = new Argument<string>("SUIT.csv");
        var performer = new Option<string?>("--performer") { Description = "The measured wearer." };
        var height = new Option<double?>("--height") { Description = "The wearer's height in metres, where nobody measured them." };
        var poses = new Option<string?>("--poses") { Description = "Frames of still, T-pose and A-pose; found when left out." };
        var output = Options.Out();
        var json = Options.Json();
        var command = new Command("solve-suit", "A suit's recording to a motion.") { input, performer, height, poses, output, json };
        command.SetAction(p =>
            Run(
                p.GetRequiredValue(input),
                Options.Body(p.GetValue(performer), p.GetValue(height)),
                p.GetValue(poses),
                Options.Motion(p.GetRequiredValue(output)),
                p.GetValue(json)
            )
        );
        return command;
    }

    private static int Run(string input, Skeleton body, string? posesPath, string output, string? json)
    {
        var take = SuitCsv.Read(InputFile.Read(input), input);
        var poses = posesPath is null ? null : SuitPosesJson.Read(InputFile.Read(posesPath), posesPath);
        var (motion, report) = SuitSolver.Solve(take, body, poses, progress: new ConsoleProgress("solve-suit"));
        MotionFiles.WriteMotion(output, motion);
        Report.Write(
            json,
            new JsonObject
            {
                ["frames"] = motion.FrameCount,
                ["frameRate"] = motion.FrameRate,
                ["travelMetres"] = Math.Round(report.TravelMetres, 3),
                ["poses"] = new JsonObject
                {
                    ["still"] = Range(report.Poses.Still),
                    ["tPose"] = Range(report.Poses.TPose),
                    ["aPose"] = Range(report.Poses.APose),
                },
                ["contacts"] = Report.Contacts(report.Contacts, motion.Skeleton),
                ["disturbed"] = new JsonArray([
                    .. report.Disturbed.Select(d =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["bone"] = d.Bone.ToString(),
                                ["start"] = d.Start,
                                ["end"] = d.End,
                                ["microtesla"] = Math.Round(d.Microtesla, 1),
                            }
                    ),
                ]),
                ["gyroscopeBias"] = new JsonObject(
                    report.Bias.Select(b =>
                        KeyValuePair.Create(
                            b.Key.ToString(),
                            (JsonNode?)new JsonArray(Math.Round(b.Value.X, 6), Math.Round(b.Value.Y, 6), Math.Round(b.Value.Z, 6))
                        )
                    )
                ),
                ["warnings"] = Report.Array(report.Warnings),
            },
            $"{output}: {motion.FrameCount} frames, {report.TravelMetres:0.0} m over the floor, {report.Contacts.Count} contacts, {report.Disturbed.Count} disturbed ranges"
        );
        return ExitCodes.Done;
    }

    private static JsonArray Range(FrameRange r) => [r.Start, r.End];
}
