using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core.Formats;

namespace Eidolon.Cli;

/// <summary>Writes a verb's report: JSON where asked, otherwise a few lines for a person.</summary>
internal static class Report
{
    private static readonly JsonSerializerOptions Indented = new() { WriteIndented = true };

    public static void Write(string? path, JsonObject report, params IEnumerable<string> lines)
    {
        if (path == "-")
        {
            Console.Out.WriteLine(report.ToJsonString(Indented));
            return;
        }

        if (path is not null)
        {
            AtomicFile.WriteText(path, report.ToJsonString(Indented) + "\n");
        }

        foreach (var line in lines)
        {
            Console.Out.WriteLine(line);
        }

        foreach (var warning in report["warnings"] as JsonArray ?? [])
        {
            Console.Error.WriteLine($"warning: {warning}");
        }
    }

    public static JsonArray Array(IEnumerable<string> texts) => new([.. texts.Select(t => (JsonNode)t)]);

    public static JsonArray Vector(System.Numerics.Vector3 v) => [Round(v.X), Round(v.Y), Round(v.Z)];

    public static JsonArray Quaternion(System.Numerics.Quaternion q) => [Round(q.X), Round(q.Y), Round(q.Z), Round(q.W)];

    public static double Round(double v) => Math.Round(v, 7);

    /// <summary>JSON has no NaN: a number that could not be measured is null.</summary>
    public static JsonNode? Number(double v, int digits = 4) => double.IsFinite(v) ? Math.Round(v, digits) : null;
}
