using System.CommandLine;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Assembly;
using Eidolon.Core.Formats;
using Eidolon.Core.Skeletons;

namespace Eidolon.Cli.Verbs;

/// <summary>The best cycle of a motion, closed and written as often as wanted.</summary>
internal static class LoopVerb
{
    private const int MostCycles = 10_000;

    public static Command Create()
    {
        var input = new Argument<string>("MOTION");
        var output = Options.Out();
        var frames = Options.Frames();
        var cycles = new Option<int>("--cycles") { DefaultValueFactory = _ => 1, Description = "How often it is written." };
        var inPlace = new Option<bool>("--in-place") { Description = "Without the way over the floor." };
        var bend = new Option<double?>("--bend")
        {
            Description = "Degrees it turns to the left in a cycle; 0 is straight. Left out: as it goes.",
        };
        var unitScale = Options.UnitScale();
        var json = Options.Json();
        var command = new Command("loop", "The best cycle of a motion, closed.")
        {
            input,
            output,
            frames,
            cycles,
            inPlace,
            bend,
            unitScale,
            json,
        };
        command.SetAction(p =>
            p.GetValue(cycles) is >= 1 and <= MostCycles and var n
                ? Run(
                    p.GetRequiredValue(input),
                    Options.Motion(p.GetRequiredValue(output)),
                    p.GetValue(frames),
                    n,
                    p.GetValue(inPlace),
                    p.GetValue(bend) is null or (>= -180 and <= 180)
                        ? p.GetValue(bend)
                        : throw new UsageException("--bend must be -180 to 180 degrees"),
                    Options.Scale(p.GetValue(unitScale)),
                    p.GetValue(json)
                )
                : throw new UsageException($"--cycles must be 1 to {MostCycles}")
        );
        return command;
    }

    private static int Run(string file, string output, string? frames, int cycles, bool inPlace, double? bend, double? scale, string? json)
    {
        var motion = Roled.Read(file, scale);
        var (from, to, step) = Options.Range(frames, motion.FrameCount);
        if (step != 1)
        {
            throw new UsageException("--frames takes a range without a step here");
        }

        Motion looped;
        LoopReport report;
        try
        {
            var (start, end, apart) = LoopFinder.Find(MotionEdits.Range(motion, from, to));
            (looped, report) = LoopMaker.Make(motion, from + start, from + end, apart, cycles, inPlace, within: (from, to - 1), bend: bend);
        }
        catch (RefusedException e)
        {
            throw new InvalidInputException(file, "frames", e.Message, e);
        }

        MotionFiles.WriteMotion(output, looped.From(0));
        var told = new JsonObject
        {
            ["start"] = report.Start,
            ["end"] = report.End,
            ["frames"] = looped.FrameCount,
            ["cycleFrames"] = report.End - report.Start,
            ["apartMillimetres"] = Report.Number(report.ApartMillimetres),
            ["closingMillimetres"] = Report.Number(report.ClosingMillimetres),
            ["closingDegrees"] = Report.Number(report.ClosingDegrees),
            ["closingSpeedMillimetresPerSecond"] = Report.Number(report.ClosingSpeed),
            ["strideMetres"] = Report.Number(report.StrideMetres, 4),
            ["turnDegrees"] = Report.Number(report.TurnDegrees, 2),
            ["bentDegrees"] = Report.Number(report.BentDegrees, 2),
            ["joints"] = new JsonArray([
                .. report.Poses.Roles.Select(
                    (role, k) =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["role"] = role.ToString(),
                                ["millimetres"] = Report.Number(report.Poses.Millimetres(k), 1),
                                ["degrees"] = Report.Number(report.Poses.Degrees[k], 1),
                            }
                ),
            ]),
            ["warnings"] = Report.Array(motion.Warnings.Concat(report.Warnings)),
        };
        Report.Write(
            json,
            told,
            [
                $"{output}: frames {report.Start} to {report.End}, {cycles} time{(cycles == 1 ? "" : "s")}, a stride of {report.StrideMetres:0.00} m",
                $"closes within {report.ClosingMillimetres:0.00} mm, {report.ClosingDegrees:0.00}°, {report.ClosingSpeed:0} mm/s",
                .. report.Warnings.Select(w => "warning: " + w),
            ]
        );
        return ExitCodes.Done;
    }
}
