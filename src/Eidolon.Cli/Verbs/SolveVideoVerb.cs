using System.CommandLine;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Operations;
using Eidolon.Core.Solving;
using Eidolon.Core.Video;

namespace Eidolon.Cli.Verbs;

/// <summary>One to three films' body points to a motion.</summary>
internal static class SolveVideoVerb
{
    private const int MostFilms = 8;

    public static Command Create()
    {
        var input = new Argument<string[]>("WITNESS.csv") { Arity = new ArgumentArity(1, MostFilms) };
        var cameras = new Option<string>("--cameras") { Required = true, Description = "The films' cameras, in the same order." };
        var performer = new Option<string?>("--performer") { Description = "The measured performer." };
        var height = new Option<double?>("--height") { Description = "The performer's height in metres, where nobody measured them." };
        var fix = new Option<string?>("--corrections") { Description = "Points of the first film put by hand." };
        var fps = new Option<double?>("--fps") { Description = "Frames a second of the motion; the first film's when left out." };
        var output = Options.Out();
        var json = Options.Json();
        var command = new Command("solve-video", "Films to a motion.") { input, cameras, performer, height, fix, fps, output, json };
        command.SetAction(p =>
            Run(
                p.GetRequiredValue(input),
                p.GetRequiredValue(cameras),
                Options.Body(p.GetValue(performer), p.GetValue(height)),
                p.GetValue(performer) is not null,
                p.GetValue(fix),
                p.GetValue(fps) is { } rate && !(rate is > 0 and <= 1000)
                    ? throw new UsageException("--fps must be above 0 and at most 1000")
                    : p.GetValue(fps),
                Options.Motion(p.GetRequiredValue(output)),
                p.GetValue(json)
            )
        );
        return command;
    }

    private static int Run(
        string[] inputs,
        string camerasPath,
        Performer body,
        bool measured,
        string? fix,
        double? fps,
        string output,
        string? json
    )
    {
        var cameras = CameraRingJson.ReadCameras(InputFile.Read(camerasPath), camerasPath);
        if (cameras.Count < inputs.Length)
        {
            throw new Core.InvalidInputException(
                camerasPath,
                "cameras",
                $"{inputs.Length} films need as many cameras, the file has {cameras.Count}"
            );
        }

        IReadOnlyList<FilmTake> films = [.. inputs.Select(i => WitnessCsv.Read(InputFile.Read(i), i))];
        var fixes = fix is null ? [] : WitnessCsv.Corrections(films[0], 0, InputFile.Read(fix), fix);

        var (motion, report) = FilmSolver.Solve(
            films,
            [.. cameras.Take(films.Count)],
            body.Skeleton,
            fixes,
            measured: measured,
            rate: fps,
            progress: new ConsoleProgress("solve-video")
        );
        var said = FilmOperation.ReportOf(motion, report, [.. inputs.Select(i => Path.GetFileName(i))]);
        motion = FilmOperation.Fingers(motion, body.Stature, films, report, said);
        MotionFiles.WriteMotion(output, motion);
        Report.Write(
            json,
            said,
            $"{output}: {motion.FrameCount} frames, {string.Join(", ", report.ReprojectionPixels.Select(p => $"{p:0.0} px"))} off the points, {report.Contacts.Count} contacts"
        );
        return ExitCodes.Done;
    }
}
