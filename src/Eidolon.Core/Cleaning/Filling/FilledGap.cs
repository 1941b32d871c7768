using Eidolon.Core.Markers;

namespace Eidolon.Core.Cleaning;

/// <summary>A gap that was filled, how, and how far off that is expected to be (metres; NaN when nothing could be compared).</summary>
public sealed record FilledGap(int Marker, Gap Gap, FillMethod Method, double ExpectedError);
