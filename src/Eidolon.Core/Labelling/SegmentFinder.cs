using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Labelling;

/// <summary>Finds places where the markers of one body segment may lie among nameless dots, by the distances between them.</summary>
internal static class SegmentFinder
{
    /// <summary>Skin moves this much between two markers of a segment, metres.</summary>
    private const float Give = 0.020f;

    private const int MostTriples = 10;

    /// <summary>Markers of a segment laid onto dots.</summary>
    /// <param name="Turn">Of the joint, joint to world.</param>
    /// <param name="Place">Of the joint, metres.</param>
    /// <param name="Score">Markers met, less what they are off; higher is better.</param>
    public readonly record struct Placement(Quaternion Turn, Vector3 Place, double Score);

    /// <summary>The best placements that differ from each other, best first; none when the segment has fewer than three markers.</summary>
    public static List<Placement> Find(IReadOnlyList<Vector3> offsets, IReadOnlyList<Vector3> dots, int most)
    {
        var found = new List<Placement>();
        if (offsets.Count < 3 || dots.Count < 3)
        {
            return found;
        }

        foreach (var (a, b, c) in Triples(offsets))
        {
            float ab = (offsets[a] - offsets[b]).Length(),
                ac = (offsets[a] - offsets[c]).Length(),
                bc = (offsets[b] - offsets[c]).Length();
            for (var i = 0; i < dots.Count; i++)
            {
                for (var j = 0; j < dots.Count; j++)
                {
                    if (i == j || MathF.Abs((dots[i] - dots[j]).Length() - ab) > Give)
                    {
                        continue;
                    }

                    for (var k = 0; k < dots.Count; k++)
                    {
                        if (
                            k != i
                            && k != j
                            && MathF.Abs((dots[i] - dots[k]).Length() - ac) < Give
                            && MathF.Abs((dots[j] - dots[k]).Length() - bc) < Give
                        )
                        {
                            Keep(found, Measure(offsets, dots, (a, b, c), (i, j, k)), most * 3);
                        }
                    }
                }
            }
        }

        return [.. found.OrderByDescending(f => f.Score).Take(most)];
    }

    /// <summary>Triples with long sides first: short ones say little about the turn.</summary>
    private static IEnumerable<(int, int, int)> Triples(IReadOnlyList<Vector3> offsets)
    {
        var all = new List<((int, int, int) T, float Area)>();
        for (var a = 0; a < offsets.Count; a++)
        {
            for (var b = a + 1; b < offsets.Count; b++)
            {
                for (var c = b + 1; c < offsets.Count; c++)
                {
                    all.Add(((a, b, c), Vector3.Cross(offsets[b] - offsets[a], offsets[c] - offsets[a]).Length()));
                }
            }
        }

        // Widest first, and each marker has to be in one of them: any may be hidden.
        return all.OrderByDescending(t => t.Area).Take(MostTriples).Select(t => t.T);
    }

    private static Placement Measure(
        IReadOnlyList<Vector3> offsets,
        IReadOnlyList<Vector3> dots,
        (int A, int B, int C) marker,
        (int A, int B, int C) dot
    )
    {
        Span<Vector3> from = [offsets[marker.A], offsets[marker.B], offsets[marker.C]],
            to = [dots[dot.A], dots[dot.B], dots[dot.C]];
        var (q, t, _) = Kabsch.Fit(from, to);
        double score = 0;
        foreach (var o in offsets)
        {
            var at = Vector3.Transform(o, q) + t;
            var least = float.PositiveInfinity;
            for (var d = 0; d < dots.Count; d++)
            {
                least = MathF.Min(least, (dots[d] - at).LengthSquared());
            }

            score += Math.Max(0, 1 - (Math.Sqrt(least) / (1.5 * Give)));
        }

        return new Placement(q, t, score / offsets.Count);
    }

    private static void Keep(List<Placement> found, Placement p, int most)
    {
        if (p.Score < 0.35)
        {
            return;
        }

        var same = found.FindIndex(f => (f.Place - p.Place).Length() < 0.03f && MathF.Abs(Quaternion.Dot(f.Turn, p.Turn)) > 0.985f);
        if (same >= 0)
        {
            found[same] = found[same].Score >= p.Score ? found[same] : p;
            return;
        }

        found.Add(p);
        if (found.Count > most)
        {
            found.RemoveAt(found.IndexOf(found.MinBy(f => f.Score)));
        }
    }
}
