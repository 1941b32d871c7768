using System.Text.Json.Nodes;
using Eidolon.Core.Quality;
using Eidolon.Studio.Services;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>One measure of a take, in another state and now, as it is read.</summary>
public sealed record QualityRow(string Name, string Unit, string Before, string Now, bool Better, bool Worse)
{
    /// <summary>All measures that are known of either state.</summary>
    public static IReadOnlyList<QualityRow> Of(MarkerQuality? before, StateNote? now, JsonObject? smoothed)
    {
        if (now is null)
        {
            return [];
        }

        var rows = new List<QualityRow>
        {
            Row("Open gaps", "", before?.OpenGaps, now.Quality?.OpenGaps, "0"),
            Row("Longest gap", "s", before?.LongestGap, now.Quality?.LongestGap, "0.00"),
            Row("Hidden", "%", before?.HiddenShare * 100, now.Quality?.HiddenShare * 100, "0.00"),
            Row("Spikes", "", before?.Spikes, now.Quality?.Spikes, "0"),
            Row("Swaps", "", before?.Swaps, now.Quality?.Swaps, "0"),
            Row("Jitter", "m/s²", before?.Jitter, now.Quality?.Jitter, "0.00"),
        };
        if (smoothed?["energyKept"] is { } kept)
        {
            rows.Add(new QualityRow("Energy kept", "%", "100", ((double)kept * 100).ToString("0.0"), false, (double)kept < 0.95));
        }

        if (now.Motion is { } motion)
        {
            rows.Add(Row("Foot slide", "mm", null, motion.WorstSlide?.Millimetres, "0.0"));
            rows.Add(Row("Below floor", "mm", null, motion.Penetration, "0.0"));
            rows.Add(Row("Float", "mm", null, motion.Float, "0.0"));
        }

        return [.. rows.Where(r => r.Now != "–" || r.Before.Length > 0)];
    }

    private static QualityRow Row(string name, string unit, double? before, double? now, string format)
    {
        string Text(double? v) => v is { } x && double.IsFinite(x) ? x.ToString(format) : "–";
        var (a, b) = (before ?? double.NaN, now ?? double.NaN);
        return new QualityRow(name, unit, before is null ? string.Empty : Text(before), Text(now), b < a * 0.95, b > (a * 1.05) + 1e-9);
    }
}
