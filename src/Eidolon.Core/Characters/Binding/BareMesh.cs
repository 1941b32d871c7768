using System.Numerics;

namespace Eidolon.Core.Characters.Binding;

/// <summary>A mesh without a rig: places in metres, Y up, and triangles; corners that share a place need not share a vertex.</summary>
/// <param name="Triangles">Three vertices each.</param>
public sealed record BareMesh(Vector3[] Positions, int[] Triangles)
{
    /// <summary>The same surface with one vertex a place.</summary>
    /// <returns>The mesh, and which of its vertices each old one became.</returns>
    public (BareMesh Mesh, int[] Of) Welded()
    {
        var of = new int[Positions.Length];
        var seen = new Dictionary<Vector3, int>(Positions.Length);
        for (var i = 0; i < of.Length; i++)
        {
            if (!seen.TryGetValue(Positions[i], out of[i]))
            {
                seen[Positions[i]] = of[i] = seen.Count;
            }
        }

        var places = new Vector3[seen.Count];
        foreach (var (place, k) in seen)
        {
            places[k] = place;
        }

        var kept = new List<int>(Triangles.Length);
        for (var t = 0; t + 2 < Triangles.Length; t += 3)
        {
            var (a, b, c) = (of[Triangles[t]], of[Triangles[t + 1]], of[Triangles[t + 2]]);
            if (a != b && b != c && a != c)
            {
                kept.AddRange([a, b, c]);
            }
        }

        return (new BareMesh(places, [.. kept]), of);
    }

    /// <summary>Which connected part of the surface each vertex belongs to, counted from 0.</summary>
    public (int[] Part, int Count) Parts()
    {
        var parent = Enumerable.Range(0, Positions.Length).ToArray();
        int Root(int i)
        {
            while (parent[i] != i)
            {
                i = parent[i] = parent[parent[i]];
            }

            return i;
        }

        for (var t = 0; t + 2 < Triangles.Length; t += 3)
        {
            parent[Root(Triangles[t])] = Root(Triangles[t + 1]);
            parent[Root(Triangles[t + 1])] = Root(Triangles[t + 2]);
        }

        var number = new Dictionary<int, int>();
        var part = new int[Positions.Length];
        for (var i = 0; i < part.Length; i++)
        {
            var root = Root(i);
            if (!number.TryGetValue(root, out part[i]))
            {
                number[root] = part[i] = number.Count;
            }
        }

        return (part, number.Count);
    }
}
