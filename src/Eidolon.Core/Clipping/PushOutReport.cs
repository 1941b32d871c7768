namespace Eidolon.Core.Clipping;

/// <summary>What pushing out did.</summary>
/// <param name="Before">Frames in which something was inside something else.</param>
/// <param name="After">Those that are left.</param>
/// <param name="HandMillimetres">The most a hand was moved.</param>
/// <param name="ElbowMillimetres">The most an elbow was moved.</param>
public sealed record PushOutReport(
    IReadOnlyList<ClippingFrame> Before,
    IReadOnlyList<ClippingFrame> After,
    double HandMillimetres,
    double ElbowMillimetres
)
{
    /// <summary>The deepest of some frames, millimetres; 0 when there are none.</summary>
    public static double Deepest(IReadOnlyList<ClippingFrame> frames) => frames.Select(c => c.DepthMillimetres).DefaultIfEmpty(0).Max();
}
