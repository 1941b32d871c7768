using System.Globalization;
using System.Text.Json.Nodes;
using Eidolon.Core.Assembly;
using Eidolon.Core.Quality;

namespace Eidolon.Core.Operations;

/// <summary>What is wrong where the clips of a track go over into one another.</summary>
public static class TrackFindings
{
    /// <summary>A jolt this strong is a break, against the clips' own acceleration.</summary>
    private const double Break = 3;

    /// <summary>A Finding and the clip that comes in there.</summary>
    /// <param name="Clip">Its place on the track, from 0.</param>
    public sealed record OfClip(int Clip, Finding Finding);

    /// <summary>Jolts and slides, the worst first.</summary>
    /// <param name="report">Of the track's clips.</param>
    /// <param name="subject">Whose track it is.</param>
    public static IReadOnlyList<OfClip> Of(JsonObject? report, string subject)
    {
        var found = new List<OfClip>();
        foreach (var o in (report?["overlaps"] as JsonArray ?? []).OfType<JsonObject>())
        {
            var (clip, start, end) = ((int)o["clip"]!, (int)o["start"]!, (int)o["end"]!);
            var jolt = (double?)o["accelerationPeakRatio"] ?? 0;
            if (jolt > OverlapReport.JoltRatio)
            {
                found.Add(
                    new(
                        clip,
                        new Finding(
                            "jolt",
                            start,
                            Math.Max(start, end),
                            jolt > Break ? Severity.MustFix : Severity.Look,
                            subject,
                            string.Create(CultureInfo.InvariantCulture, $"clip {clip + 1} comes in {jolt:0.0} × as hard as the clips move"),
                            jolt
                        )
                    )
                );
            }

            var slide = (double?)o["slideMillimetres"] ?? 0;
            if (slide > OverlapReport.MostSlide)
            {
                found.Add(
                    new(
                        clip,
                        new Finding(
                            "slide",
                            start,
                            Math.Max(start, end),
                            Severity.Look,
                            subject,
                            string.Create(
                                CultureInfo.InvariantCulture,
                                $"a planted foot moves {slide:0.0} mm a frame into clip {clip + 1}"
                            ),
                            slide
                        )
                    )
                );
            }
        }

        return [.. found.OrderBy(f => f.Finding.Severity).ThenByDescending(f => f.Finding.Measure)];
    }
}
