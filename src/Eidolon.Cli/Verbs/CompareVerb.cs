using System.CommandLine;
using System.Text.Json.Nodes;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;

namespace Eidolon.Cli.Verbs;

/// <summary>Two motions, or two takes, of one performance.</summary>
internal static class CompareVerb
{
    public static Command Create()
    {
        var a = new Argument<string>("A");
        var b = new Argument<string>("B");
        var align = new Option<string>("--align") { DefaultValueFactory = _ => "none", Description = "none, floor or pelvis." };
        var unitScale = Options.UnitScale();
        var json = Options.Json();
        var command = new Command("compare", "Two motions, or two takes, of one performance.") { a, b, align, unitScale, json };
        command.SetAction(p =>
            Run(
                p.GetRequiredValue(a),
                p.GetRequiredValue(b),
                p.GetValue(align)?.ToLowerInvariant() switch
                {
                    "none" => Laying.None,
                    "floor" => Laying.Floor,
                    "pelvis" => Laying.Pelvis,
                    _ => throw new UsageException("--align none, floor or pelvis"),
                },
                Options.Scale(p.GetValue(unitScale)),
                p.GetValue(json)
            )
        );
        return command;
    }

    private static int Run(string pathA, string pathB, Laying laying, double? unitScale, string? json)
    {
        var (bytesA, bytesB) = (InputFile.Read(pathA), InputFile.Read(pathB));
        var markers = IsMarkers(pathA, bytesA);
        if (markers != IsMarkers(pathB, bytesB))
        {
            throw new UsageException("give two motions or two takes, not one of each");
        }

        var (found, measuresA, measuresB) = markers
            ? Takes(bytesA, pathA, bytesB, pathB, laying)
            : Motions(bytesA, pathA, bytesB, pathB, laying, unitScale);
        var warnings = new[] { (pathA, measuresA), (pathB, measuresB) }
            .SelectMany(x => ((JsonArray)x.Item2["warnings"]!).Select(w => $"{Path.GetFileName(x.Item1)}: {w}"))
            .ToList();
        if (found.OffsetFrames != 0)
        {
            warnings.Add($"the second begins {found.OffsetFrames} frames after the first; {found.Frames} frames were compared");
        }

        Report.Write(
            json,
            new JsonObject
            {
                ["joints"] = new JsonArray([
                    .. found.Joints.Select(j =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["role"] = j.Name,
                                ["meanMillimetres"] = Report.Number(j.MeanMillimetres, 3),
                                ["maxMillimetres"] = Report.Number(j.MaxMillimetres, 3),
                                ["meanDegrees"] = j.MeanDegrees is { } d ? Report.Number(d, 3) : null,
                            }
                    ),
                ]),
                ["meanMillimetres"] = Report.Number(found.MeanMillimetres, 3),
                ["alike"] = found.Alike,
                ["measuresA"] = measuresA,
                ["measuresB"] = measuresB,
                ["offsetFrames"] = found.OffsetFrames,
                ["frames"] = found.Frames,
                ["warnings"] = Report.Array(warnings),
            },
            [
                $"{found.Frames} frames, {found.MeanMillimetres:0.0} mm on the whole{(found.Alike ? ": alike" : string.Empty)}",
                .. found
                    .Joints.OrderByDescending(j => j.MeanMillimetres)
                    .Take(8)
                    .Select(j => $"{j.Name, -10} {j.MeanMillimetres, 7:0.0} mm, at most {j.MaxMillimetres:0.0}{Turned(j)}"),
            ]
        );
        return ExitCodes.Done;
    }

    private static string Turned(JointDifference j) => j.MeanDegrees is { } d ? $", {d:0.0}°" : string.Empty;

    private static bool IsMarkers(string path, byte[] bytes) => MotionFiles.KindOf(path, bytes) is FileKind.C3d or FileKind.Csv;

    private static (Comparison Found, JsonObject A, JsonObject B) Takes(byte[] a, string pathA, byte[] b, string pathB, Laying laying)
    {
        var (one, other) = (MotionFiles.ReadMarkers(a, pathA).Take, MotionFiles.ReadMarkers(b, pathB).Take);
        return (Comparison.Of(one, other, laying), Measures(QualityReport.Of(one)), Measures(QualityReport.Of(other)));
    }

    private static (Comparison Found, JsonObject A, JsonObject B) Motions(
        byte[] a,
        string pathA,
        byte[] b,
        string pathB,
        Laying laying,
        double? scale
    )
    {
        var (one, other) = (WithRoles(a, pathA, scale), WithRoles(b, pathB, scale));
        return (Comparison.Of(one, other, laying), Measures(QualityReport.Of(one)), Measures(QualityReport.Of(other)));
    }

    private static JsonObject Measures((JsonObject Report, List<Finding> Findings) measured)
    {
        measured.Report["findings"] = Core.Operations.FindingJson.Write(measured.Findings);
        return measured.Report;
    }

    private static Motion WithRoles(byte[] bytes, string path, double? scale)
    {
        var motion = MotionFiles.ReadMotion(bytes, path, scale, InputFile.FolderOf(path));
        return motion.On(motion.Skeleton.WithRoles(RoleFinder.Find(motion.Skeleton).Roles));
    }
}
