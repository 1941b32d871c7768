using System.Numerics;
using Eidolon.Core.Characters.Sculpting;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters;

/// <summary>A body for bones that came without one: each bone a slender eight-sided block that follows its joint whole.</summary>
public static class BoneFigure
{
    /// <summary>A bone's thickness over its length, and within what it stays, metres; where along it is thickest.</summary>
    private const float Slender = 0.16f,
        Thinnest = 0.004f,
        Thickest = 0.055f,
        Waist = 0.2f;

    /// <summary>What is shorter is no bone that could be seen, metres.</summary>
    private const float Shortest = 0.005f;

    private static readonly SurfaceMaterial Bone = SurfaceMaterial.Of("Bones", "#d8cdb8");

    /// <summary>Blocks from every joint to each of its children, and to its end.</summary>
    public static SkinnedMesh Of(Skeleton skeleton)
    {
        var (places, normals, joints, triangles) = (
            new List<Vector3>(),
            new List<Vector3>(),
            new List<(ushort, ushort, ushort, ushort)>(),
            new List<int>()
        );
        for (var j = 0; j < skeleton.Count; j++)
        {
            var from = skeleton.RestPositions[j];
            foreach (var to in Ends(skeleton, j))
            {
                if (Vector3.Distance(from, to) < Shortest)
                {
                    continue;
                }

                foreach (var (a, b, c) in Block(from, to))
                {
                    // Flat sides: each has corners of its own.
                    var normal = Vector3.Normalize(Vector3.Cross(b - a, c - a));
                    foreach (var p in new[] { a, b, c })
                    {
                        triangles.Add(places.Count);
                        places.Add(p);
                        normals.Add(normal);
                        joints.Add(((ushort)j, 0, 0, 0));
                    }
                }
            }
        }

        return new SkinnedMesh(
            Bone,
            [.. places],
            [.. normals],
            [.. joints],
            [.. Enumerable.Repeat(Vector4.UnitX, places.Count)],
            [.. triangles]
        );
    }

    private static IEnumerable<Vector3> Ends(Skeleton s, int joint)
    {
        for (var c = joint + 1; c < s.Count; c++)
        {
            if (s.Parents[c] == joint)
            {
                yield return s.RestPositions[c];
            }
        }

        if (s[joint].EndSite is { } end)
        {
            yield return s.RestPositions[joint] + Vector3.Transform(end, s.RestRotations[joint]);
        }
    }

    /// <summary>Eight triangles, seen from outside against the clock.</summary>
    private static IEnumerable<(Vector3 A, Vector3 B, Vector3 C)> Block(Vector3 from, Vector3 to)
    {
        var along = to - from;
        var length = along.Length();
        var axis = along / length;
        var side = Vector3.Normalize(Vector3.Cross(axis, MathF.Abs(axis.Y) < 0.9f ? Vector3.UnitY : Vector3.UnitX));
        var other = Vector3.Cross(axis, side);
        var half = Math.Clamp(Slender * length, Thinnest, Thickest) / 2;
        var middle = from + (Waist * along);
        Vector3[] ring = [middle + (half * side), middle + (half * other), middle - (half * side), middle - (half * other)];
        for (var k = 0; k < 4; k++)
        {
            var (a, b) = (ring[k], ring[(k + 1) % 4]);
            yield return (from, b, a);
            yield return (to, a, b);
        }
    }
}
