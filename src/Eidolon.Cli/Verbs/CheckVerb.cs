using System.CommandLine;
using System.Text.Json.Nodes;
using Eidolon.Core.Formats;
using Eidolon.Core.Quality;

namespace Eidolon.Cli.Verbs;

/// <summary>The quality measures.</summary>
internal static class CheckVerb
{
    public static Command Create()
    {
        var file = new Argument<string>("FILE");
        var unitScale = Options.UnitScale();
        var strict = new Option<bool>("--strict") { Description = "Exit 4 when a Finding must be fixed." };
        var json = Options.Json();
        var command = new Command("check", "The quality measures.") { file, unitScale, strict, json };
        command.SetAction(p => Run(p.GetRequiredValue(file), Options.Scale(p.GetValue(unitScale)), p.GetValue(strict), p.GetValue(json)));
        return command;
    }

    private static int Run(string path, double? unitScale, bool strict, string? json)
    {
        var bytes = InputFile.Read(path);
        var (report, findings) = MotionFiles.KindOf(path, bytes) is FileKind.C3d or FileKind.Csv
            ? QualityReport.Of(MotionFiles.ReadMarkers(bytes, path).Take)
            : QualityReport.Of(MotionFiles.ReadMotion(bytes, path, unitScale, InputFile.FolderOf(path)));
        report["findings"] = Core.Operations.FindingJson.Write(findings);
        Report.Write(
            json,
            report,
            [
                $"slide {report["footSlide"]!["meanMillimetresPerFrame"]} mm a planted frame, penetration {report["floorPenetrationMillimetres"]} mm, float {report["floatMillimetres"]} mm, jitter {Jitter(report)}",
                .. findings.Take(20).Select(f => $"{f.Severity, -8} {f.Start, 6}–{f.End, -6} {f.Kind}, {f.Subject}: {f.Message}"),
            ]
        );
        return strict && findings.Any(f => f.Severity == Severity.MustFix) ? ExitCodes.StrictFailed : ExitCodes.Done;
    }

    private static string Jitter(JsonObject report) =>
        report["jitter"] is { } j ? $"{j} m/s²" : (string?)report["jitterNote"] ?? "not measured";
}
