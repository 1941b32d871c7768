using System.CommandLine;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Cli;

/// <summary>Options that several verbs share, and how their values are read.</summary>
internal static class Options
{
    public static Option<string?> Json() => new("--json") { Description = "Write the report as JSON to PATH (- is stdout)." };

    public static Option<double?> UnitScale() => new("--unit-scale") { Description = "Metres per unit of the input." };

    public static Option<string> Out() => new("--out") { Required = true, Description = "File to write." };

    public static Option<string?> Frames() => new("--frames") { Description = "A:B[:STEP], frames from A up to, not including, B." };

    /// <summary>Reads A:B[:STEP]; ends are clamped to the data.</summary>
    public static (int Start, int End, int Step) Range(string? text, int count)
    {
        if (text is null)
        {
            return (0, count, 1);
        }

        var parts = text.Split(':');
        int Part(int i, int fallback) =>
            i >= parts.Length || parts[i].Length == 0 ? fallback
            : int.TryParse(parts[i], out var v) && v >= 0 ? v
            : throw new UsageException($"--frames {text}: '{parts[i]}' is not a frame number");
        var start = Part(0, 0);
        var end = parts.Length == 1 ? start + 1 : Part(1, count);
        var step = Part(2, 1);
        if (parts.Length > 3 || step < 1 || start >= count || Math.Min(end, count) <= start)
        {
            throw new UsageException($"--frames {text}: no frame of 0 to {count - 1} is in it");
        }

        return (start, Math.Min(end, count), step);
    }

    public static double? Scale(double? value) =>
        value is { } v && !(v > 0 && double.IsFinite(v)) ? throw new UsageException("--unit-scale must be above zero") : value;

    public static string Unit(string text) =>
        Units.TryMetres(text, out _) && text is "m" or "cm" or "mm" or "in"
            ? text
            : throw new UsageException($"--units {text}: m, cm, mm or in");

    /// <summary>The performer that was measured, or one of average proportions of a given height.</summary>
    public static Performer Body(string? performer, double? height) =>
        (performer, height) switch
        {
            ({ } file, null) => PerformerJson.Read(InputFile.Read(file), file),
            (null, >= 0.5 and <= 2.6) => new Performer("of that height", (float)height.Value, Anthropometry.Body((float)height.Value), []),
            (null, not null) => throw new UsageException("--height is in metres, 0.5 to 2.6"),
            _ => throw new UsageException("give either --performer PERFORMER.json or --height METRES"),
        };

    /// <summary>A file for a motion.</summary>
    public static string Motion(string path) =>
        Path.GetExtension(path).ToLowerInvariant() is ".bvh" or ".glb" ? path : throw new UsageException("--out must end in .bvh or .glb");
}
