namespace Eidolon.Core.Hands;

/// <summary>How far the joints of a finger go, radians. No bend goes below zero.</summary>
/// <param name="Apart">Largest spread to either side.</param>
/// <remarks>Ranges after Kapandji, "The Physiology of the Joints", rounded outwards.</remarks>
public sealed record FingerLimits(float Apart, float First, float Second, float Third)
{
    private const float Degree = MathF.PI / 180;

    private static readonly FingerLimits Finger = new(24 * Degree, 95 * Degree, 115 * Degree, 85 * Degree);

    private static readonly FingerLimits Thumb = new(45 * Degree, 55 * Degree, 75 * Degree, 85 * Degree);

    /// <summary>The limits of a thumb or of another finger.</summary>
    public static FingerLimits Of(bool thumb) => thumb ? Thumb : Finger;

    /// <summary>The nearest pose within the limits.</summary>
    public FingerPose Clamp(FingerPose p) =>
        new(
            Math.Clamp(p.Spread, -Apart, Apart),
            Math.Clamp(p.First, 0, First),
            Math.Clamp(p.Second, 0, Second),
            Math.Clamp(p.Third, 0, Third)
        );

    internal (float Low, float High) Range(int freedom) =>
        freedom switch
        {
            0 => (-Apart, Apart),
            1 => (0, First),
            2 => (0, Second),
            _ => (0, Third),
        };
}
