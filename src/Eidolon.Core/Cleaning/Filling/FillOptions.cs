using Eidolon.Core.Markers;

namespace Eidolon.Core.Cleaning;

/// <summary>What shall be filled and how.</summary>
/// <param name="Method">Auto compares all that are possible.</param>
/// <param name="Longest">Longer gaps stay open, frames.</param>
/// <param name="WorstError">Gaps that are expected to end up farther off, or of which nothing is known, stay open; metres, infinite for no limit.</param>
/// <param name="Marker">Only this one; all when null.</param>
/// <param name="Frame">Only gaps that hold this frame.</param>
/// <param name="Model">Where the solved skeleton carries each marker, same names and frames; null when there is none.</param>
public sealed record FillOptions(
    FillMethod Method = FillMethod.Auto,
    int Longest = 240,
    double WorstError = double.PositiveInfinity,
    string? Marker = null,
    int? Frame = null,
    MarkerTake? Model = null
);
