using Eidolon.Core.Markers;
using Eidolon.Core.Quality;

namespace Eidolon.Studio.Services;

/// <summary>What was worked out about one state of a take.</summary>
/// <param name="Gaps">[marker of the state]: its gaps.</param>
/// <param name="Markers">Findings of the markers; notes left out.</param>
/// <param name="Motion">The measures of the motion furthest along; null before the solve.</param>
public sealed record StateNote(IReadOnlyList<Gap>[] Gaps, IReadOnlyList<Finding> Markers, MarkerQuality? Quality, MotionQuality? Motion)
{
    /// <summary>Findings of a Step: of the markers first, of the motion once there is one.</summary>
    public IReadOnlyList<Finding> Findings(string step) =>
        step switch
        {
            "label" => Markers,
            "clean" => [.. MarkerFindings.Order([.. Markers, .. Motion?.Findings ?? []])],
            _ => Motion?.Findings ?? Markers,
        };
}
