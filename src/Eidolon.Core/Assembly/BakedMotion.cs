using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>Clips joined into one motion.</summary>
public sealed record BakedMotion(Motion Motion, IReadOnlyList<OverlapReport> Overlaps);
