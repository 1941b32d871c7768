namespace Eidolon.Core.Optical;

/// <summary>Three markers on a straight rod, the middle one nearer to the first end.</summary>
/// <param name="ToMiddle">From the first end to the middle marker, metres.</param>
/// <param name="Length">From end to end, metres.</param>
public sealed record Wand(double ToMiddle = 0.2, double Length = 0.5)
{
    /// <summary>Signed distance of each marker from the middle one along the rod, metres.</summary>
    public double[] Offsets => [-ToMiddle, 0, Length - ToMiddle];
}
