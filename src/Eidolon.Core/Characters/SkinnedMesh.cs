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
);
