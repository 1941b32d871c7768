using Eidolon.Core.Solving;

namespace Eidolon.Core.Labelling;

/// <summary>A body found in one frame.</summary>
/// <param name="Matches">Point id and marker.</param>
/// <param name="Fit">1 is every marker within a centimetre.</param>
public sealed record LiveFind(ModelPose Pose, IReadOnlyList<(int Id, int Marker)> Matches, double Fit);
