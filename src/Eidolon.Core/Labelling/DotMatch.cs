using System.Numerics;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Labelling;

/// <summary>Which dot each marker of a body takes.</summary>
internal static class DotMatch
{
    /// <summary>One-to-one matches of markers to dots within a gate, cheapest in all.</summary>
    public static int[] Find(ReadOnlySpan<Vector3d> markers, IReadOnlyList<Vector3> dots, double gate)
    {
        // Dots that no marker reaches only make the table larger.
        var near = new List<int>(dots.Count);
        for (var j = 0; j < dots.Count; j++)
        {
            foreach (var m in markers)
            {
                var e = m - dots[j];
                if (Vector3d.Dot(e, e) < gate * gate)
                {
                    near.Add(j);
                    break;
                }
            }
        }

        var result = new int[markers.Length];
        Array.Fill(result, -1);
        if (near.Count == 0)
        {
            return result;
        }

        var cost = new double[markers.Length, near.Count];
        for (var i = 0; i < markers.Length; i++)
        {
            for (var j = 0; j < near.Count; j++)
            {
                var e = markers[i] - dots[near[j]];
                cost[i, j] = Math.Sqrt(Vector3d.Dot(e, e));
            }
        }

        var match = Hungarian.Assign(cost, gate);
        for (var i = 0; i < match.Length; i++)
        {
            result[i] = match[i] < 0 ? -1 : near[match[i]];
        }

        return result;
    }
}
