namespace Eidolon.Core.Assembly;

/// <summary>A moment at which one motion can go over into another.</summary>
/// <param name="A">First frame of the overlap in the earlier motion.</param>
/// <param name="B">First frame of the overlap in the later one.</param>
/// <param name="Frames">Length of the overlap, frames of the earlier motion.</param>
/// <param name="DistanceMillimetres">How far the joints are apart over the overlap, RMS, the later motion laid on the earlier one on the floor.</param>
/// <param name="SupportA">What the earlier motion stands on in the middle of it: L, R, both, or none.</param>
/// <param name="SupportB">The same of the later one.</param>
public sealed record OverlapMoment(int A, int B, int Frames, double DistanceMillimetres, string SupportA, string SupportB);
