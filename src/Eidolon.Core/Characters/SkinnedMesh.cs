using System.Numerics;

namespace Eidolon.Core.Characters;

/// <summary>A closed skin over a skeleton at rest: places in metres, four weights a vertex that sum to one.</summary>
public sealed record SkinnedMesh(
    Vector3[] Positions,
    Vector3[] Normals,
    Vector3[] Colours,
    (ushort A, ushort B, ushort C, ushort D)[] Joints,
    Vector4[] Weights,
    int[] Triangles
)
{
    /// <summary>Both skins in one; they are not joined.</summary>
    public SkinnedMesh With(SkinnedMesh other) =>
        new(
            [.. Positions, .. other.Positions],
            [.. Normals, .. other.Normals],
            [.. Colours, .. other.Colours],
            [.. Joints, .. other.Joints],
            [.. Weights, .. other.Weights],
            [.. Triangles, .. other.Triangles.Select(t => t + Positions.Length)]
        );
}
