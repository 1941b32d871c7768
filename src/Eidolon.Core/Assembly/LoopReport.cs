namespace Eidolon.Core.Assembly;

/// <summary>A closed cycle, written a number of times.</summary>
/// <param name="Start">First source frame.</param>
/// <param name="End">Source frame a cycle later, inside the range: the same pose as the first.</param>
/// <param name="ApartMillimetres">How far those two poses were apart before, RMS.</param>
/// <param name="ClosingMillimetres">Farthest a joint of the last frame is from where the first one, carried on by a stride, has it.</param>
/// <param name="ClosingDegrees">Farthest a joint's turn is off there.</param>
/// <param name="ClosingSpeed">By how much any joint's speed changes over the seam (0.03 s before against after) otherwise than in the source at that moment, mm/s.</param>
/// <param name="StrideMetres">Way over the floor in a cycle.</param>
/// <param name="TurnDegrees">Turn about the vertical in a cycle of the source.</param>
/// <param name="Warnings">In words.</param>
public sealed record LoopReport(
    int Start,
    int End,
    double ApartMillimetres,
    double ClosingMillimetres,
    double ClosingDegrees,
    double ClosingSpeed,
    double StrideMetres,
    double TurnDegrees,
    IReadOnlyList<string> Warnings
)
{
    /// <summary>How far the loop itself turns to the left in a cycle, degrees.</summary>
    public double BentDegrees { get; init; }

    /// <summary>The two poses it is closed between.</summary>
    public required LoopPoses Poses { get; init; }
}
