using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Solving;

/// <summary>A calibrated performer: bone lengths in the T-pose skeleton, and where each marker sits on its bone.</summary>
/// <param name="Skeleton">T-pose, facing +Z, every joint with its role, rest turns identity.</param>
public sealed record Performer(string Name, float Stature, Skeleton Skeleton, IReadOnlyList<PerformerMarker> Markers)
{
    /// <summary>Length of the bone that ends at each joint, metres.</summary>
    public IReadOnlyDictionary<string, double> BoneLengths =>
        Skeleton.Joints.Where(j => j.Parent >= 0).ToDictionary(j => j.Name, j => (double)j.Offset.Length());
}
