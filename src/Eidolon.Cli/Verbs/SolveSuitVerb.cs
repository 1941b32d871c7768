using System.CommandLine;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Inertial;
using Eidolon.Core.Operations;
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
            SuitOperation.ReportOf(motion, report),
            $"{output}: {motion.FrameCount} frames, {report.TravelMetres:0.0} m over the floor, {report.Contacts.Count} contacts, {report.Disturbed.Count} disturbed ranges"
        );
        return ExitCodes.Done;
    }
}
