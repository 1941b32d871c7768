using Eidolon.Core.Solving;

namespace Eidolon.Core.Cleaning;

/// <summary>What shall be filled and how.</summary>
/// <param name="Method">Auto compares all that are possible.</param>
/// <param name="Longest">Longer gaps stay open, frames.</param>
/// <param name="WorstError">Gaps that are expected to end up farther off, or of which nothing is known, stay open; metres, infinite for no limit.</param>
/// <param name="Marker">Only this one; all when null.</param>
/// <param name="Frame">Only gaps that hold this frame.</param>
/// <param name="Ends">
/// Gaps at the ends of the take and markers that are never seen are carried by the skeleton, however long they are; without it they stay open.
/// </param>
/// <param name="Skeleton">Carries markers of measured performers; asked only where a gap needs it; null when nobody is measured.</param>
public sealed record FillOptions(
    FillMethod Method = FillMethod.Auto,
    int Longest = 240,
    double WorstError = double.PositiveInfinity,
    string? Marker = null,
    int? Frame = null,
    Lazy<SkeletonCarrier>? Skeleton = null,
    bool Ends = false
);
