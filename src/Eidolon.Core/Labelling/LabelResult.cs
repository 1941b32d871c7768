using Eidolon.Core.Markers;

namespace Eidolon.Core.Labelling;

/// <summary>A labelled take: the set's names first, then what stayed unnamed.</summary>
/// <param name="LabelledFraction">Share of the visible samples that have a name; hidden ones cannot have one.</param>
/// <param name="Pieces">Every fragment with its name (null when none) and confidence.</param>
public sealed record LabelResult(
    MarkerTake Take,
    double LabelledFraction,
    IReadOnlyList<LabelledPiece> Pieces,
    IReadOnlyList<LabelDoubt> Doubts
);
