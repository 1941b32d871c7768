using Eidolon.Core.Markers;
using Eidolon.Core.Quality;

namespace Eidolon.Studio.Services;

/// <summary>The measures of one motion.</summary>
/// <param name="Who">Said with its Findings where there are several; else empty.</param>
/// <param name="OfSolve">What the solve itself leaves to look at: markers that slipped, by their names in the take; stretches off in a film.</param>
public sealed record MotionNote(int Node, string Who, MotionQuality Quality, IReadOnlyList<Finding> OfSolve)
{
    /// <summary>Its Findings, saying whose they are.</summary>
    public IEnumerable<Finding> Findings =>
        OfSolve.Concat(Who.Length == 0 ? Quality.Findings : Quality.Findings.Select(f => f with { Subject = $"{Who}, {f.Subject}" }));
}

/// <summary>What was worked out about one state of a take.</summary>
/// <param name="Gaps">[marker of the state]: its gaps.</param>
/// <param name="Markers">Findings of the markers; notes left out.</param>
/// <param name="Performers">The measures of every solved performer.</param>
/// <param name="Characters">The measures of every cast.</param>
public sealed record StateNote(
    IReadOnlyList<Gap>[] Gaps,
    IReadOnlyList<Finding> Markers,
    MarkerQuality? Quality,
    IReadOnlyList<MotionNote> Performers,
    IReadOnlyList<MotionNote> Characters
)
{
    /// <summary>The motion whose feet slide farthest, of the furthest ones; null before the solve.</summary>
    public MotionQuality? Motion =>
        (Characters.Count > 0 ? Characters : Performers).Select(m => m.Quality).MaxBy(q => q.WorstSlide?.Millimetres ?? 0);

    /// <summary>Findings of a Step: of the markers first, of the motions once there are some.</summary>
    public IReadOnlyList<Finding> Findings(string step) =>
        step switch
        {
            "label" => Markers,
            "clean" => [.. MarkerFindings.Order([.. Markers, .. Performers.SelectMany(m => m.Findings)])],
            "solve" => Performers.Count > 0 ? [.. Performers.SelectMany(m => m.Findings)] : Markers,
            _ => Characters.Count > 0 ? [.. Characters.SelectMany(m => m.Findings)]
            : Performers.Count > 0 ? [.. Performers.SelectMany(m => m.Findings)]
            : Markers,
        };
}
