using System.Numerics;
using Eidolon.Core.Characters.Sculpting;

namespace Eidolon.Core.Characters;

/// <summary>A closed skin of one material over a skeleton at rest: places in metres, four weights a vertex that sum to one.</summary>
/// <param name="Joints">Bones of each vertex: joints of the skeleton, then helpers of the figure.</param>
public sealed record SkinnedMesh(
    SurfaceMaterial Material,
    Vector3[] Positions,
    Vector3[] Normals,
    (ushort A, ushort B, ushort C, ushort D)[] Joints,
    Vector4[] Weights,
    int[] Triangles
)
{
    /// <summary>Colours of single vertices (linear), where one material is not enough.</summary>
    public Vector3[]? Colours { get; init; }

    /// <summary>How far each vertex goes for each face shape at its full weight, by the figure's names; empty where nothing moves.</summary>
    public IReadOnlyDictionary<string, Vector3[]> Shapes { get; init; } = new Dictionary<string, Vector3[]>();

    /// <summary>Some of its triangles, with the vertices they need; shapes and colours are left behind.</summary>
    public SkinnedMesh Only(Func<int, int, int, bool> pick)
    {
        var kept = new List<int>(Triangles.Length);
        var at = new int[Positions.Length];
        Array.Fill(at, -1);
        var left = new List<int>();
        for (var t = 0; t < Triangles.Length; t += 3)
        {
            if (!pick(Triangles[t], Triangles[t + 1], Triangles[t + 2]))
            {
                continue;
            }

            for (var k = t; k < t + 3; k++)
            {
                ref var to = ref at[Triangles[k]];
                if (to < 0)
                {
                    to = left.Count;
                    left.Add(Triangles[k]);
                }

                kept.Add(to);
            }
        }

        T[] Of<T>(T[] all) => [.. left.Select(i => all[i])];
        return new SkinnedMesh(Material, Of(Positions), Of(Normals), Of(Joints), Of(Weights), [.. kept]);
    }
}

/// <summary>A whole figure: its skins, and the bones that only they have.</summary>
public sealed record SkinnedFigure(IReadOnlyList<SkinnedMesh> Skins, IReadOnlyList<SkinHelper> Helpers);
