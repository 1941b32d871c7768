namespace Eidolon.Core.Assembly;

/// <summary>One overlap of a baked motion: its frames, how the later clip was moved to meet, and how far planted feet slid.</summary>
public sealed record OverlapReport(int Start, int End, double MovedMetres, double TurnedDegrees, double SlideMillimetres);
