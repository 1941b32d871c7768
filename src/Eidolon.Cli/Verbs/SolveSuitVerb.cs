using System.CommandLine;
using System.Text.Json.Nodes;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Inertial;
using Eidolon.Core.Operations;
using Eidolon.Core.Solving;

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
        var ride = new RideAlong();
        var output = Options.Out();
        var json = Options.Json();
        var command = new Command("solve-suit", "A suit's recording to a motion.")
        {
            input,
            performer,
            height,
            poses,
            ride.Gloves,
            ride.Face,
            ride.FaceOffset,
            output,
            json,
        };
        command.SetAction(p =>
            Run(
                p.GetRequiredValue(input),
                Options.Body(p.GetValue(performer), p.GetValue(height)),
                p.GetValue(poses),
                ride.Read(p),
                Options.Motion(p.GetRequiredValue(output)),
                p.GetValue(json)
            )
        );
        return command;
    }

    private static int Run(string input, Performer body, string? posesPath, RideAlong.Given ride, string output, string? json)
    {
        var take = SuitCsv.Read(InputFile.Read(input), input);
        var poses = posesPath is null ? null : SuitPosesJson.Read(InputFile.Read(posesPath), posesPath);
        var progress = new ConsoleProgress("solve-suit");
        var (motion, report) = SuitSolver.Solve(take, body.Skeleton, poses, progress: progress);
        var (whole, rode) = ride.Add(new MotionValue(motion), body, null, null, progress);
        MotionFiles.WriteMotion(output, whole.Motion);
        var said = SuitOperation.ReportOf(motion, report);
        said["warnings"] = Report.Array([.. ((JsonArray)said["warnings"]!).Select(w => (string)w!), .. RideAlong.Into(said, rode)]);
        Report.Write(
            json,
            said,
            $"{output}: {motion.FrameCount} frames, {report.TravelMetres:0.0} m over the floor, {report.Contacts.Count} contacts, {report.Disturbed.Count} disturbed ranges"
        );
        return ExitCodes.Done;
    }
}
