namespace Eidolon.Core.Clipping;

/// <summary>Two body parts inside each other at a frame.</summary>
public readonly record struct ClippingFrame(int Frame, string PartA, string PartB, double DepthMillimetres);
