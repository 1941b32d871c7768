using System.Numerics;

namespace Eidolon.Core.Characters.Binding;

/// <summary>The skin of a character as a surface to paint on: its vertices at rest, what is beside what, and the bones they can follow.</summary>
public sealed class SkinSurface
{
    private readonly int[] _of;
    private readonly int[][] _corners;
    private readonly int[][] _beside;

    /// <param name="places">Of each vertex at rest, metres.</param>
    /// <param name="triangles">Three vertices each.</param>
    /// <param name="bones">Names of the bones.</param>
    /// <param name="parents">Of each bone the nearest bone above it; -1 for none.</param>
    public SkinSurface(Vector3[] places, int[] triangles, IReadOnlyList<string> bones, IReadOnlyList<int> parents)
    {
        (Places, Triangles, Bones, Parents) = (places, triangles, bones, parents);
        // Corners of one place may be several vertices: they are painted as one, or the skin would open there.
        (var welded, _of) = new BareMesh(places, triangles).Welded();
        var (corners, beside) = (new List<int>[welded.Positions.Length], new HashSet<int>[welded.Positions.Length]);
        for (var p = 0; p < corners.Length; p++)
        {
            (corners[p], beside[p]) = ([], []);
        }

        for (var v = 0; v < _of.Length; v++)
        {
            corners[_of[v]].Add(v);
        }

        for (var t = 0; t < welded.Triangles.Length; t += 3)
        {
            for (var k = 0; k < 3; k++)
            {
                var (a, b) = (welded.Triangles[t + k], welded.Triangles[t + ((k + 1) % 3)]);
                beside[a].Add(b);
                beside[b].Add(a);
            }
        }

        _corners = Array.ConvertAll(corners, c => c.ToArray());
        _beside = Array.ConvertAll(beside, b => b.ToArray());
    }

    /// <summary>Of each vertex at rest, metres.</summary>
    public Vector3[] Places { get; }

    /// <summary>Three vertices each.</summary>
    public int[] Triangles { get; }

    /// <summary>Names of the bones.</summary>
    public IReadOnlyList<string> Bones { get; }

    /// <summary>Of each bone the nearest bone above it; -1 for none.</summary>
    public IReadOnlyList<int> Parents { get; }

    /// <summary>Places of the surface: corners that share one count once.</summary>
    internal int Count => _corners.Length;

    /// <summary>The place a vertex is at.</summary>
    internal int At(int vertex) => _of[vertex];

    /// <summary>The vertices at a place.</summary>
    internal ReadOnlySpan<int> Corners(int place) => _corners[place];

    internal ReadOnlySpan<int> Beside(int place) => _beside[place];

    /// <summary>The vertex nearest to where another one's mirror image lies.</summary>
    /// <param name="middle">A point of the plane between the sides.</param>
    /// <param name="across">That plane's normal, of length 1.</param>
    /// <param name="within">Metres; farther off there is none.</param>
    /// <returns>-1 where there is none.</returns>
    public int Mirrored(int vertex, Vector3 middle, Vector3 across, float within)
    {
        var wish = Places[vertex] - (2 * Vector3.Dot(Places[vertex] - middle, across) * across);
        var (best, least) = (-1, within * within);
        for (var p = 0; p < _corners.Length; p++)
        {
            var v = _corners[p][0];
            var d = Vector3.DistanceSquared(Places[v], wish);
            if (d <= least)
            {
                (best, least) = (v, d);
            }
        }

        return best;
    }

    /// <summary>How near the places around a path over the surface are: 1 on it, 0 at the brush's edge; told along the surface, never across a gap.</summary>
    /// <param name="path">Vertices the brush went over.</param>
    /// <param name="radius">Metres.</param>
    internal Dictionary<int, float> Around(IReadOnlyList<int> path, float radius)
    {
        var near = new Dictionary<int, float>();
        var queue = new Queue<int>();
        var seen = new HashSet<int>();
        foreach (var centre in path.Select(v => _of[v]).Distinct())
        {
            var middle = Places[_corners[centre][0]];
            seen.Clear();
            seen.Add(centre);
            queue.Enqueue(centre);
            while (queue.TryDequeue(out var p))
            {
                var share = 1 - (Vector3.Distance(Places[_corners[p][0]], middle) / radius);
                if (share <= 0)
                {
                    continue;
                }

                // Soft at its edge, flat in its middle.
                var soft = share * share * (3 - (2 * share));
                near[p] = Math.Max(near.GetValueOrDefault(p), soft);
                foreach (var b in _beside[p])
                {
                    if (seen.Add(b))
                    {
                        queue.Enqueue(b);
                    }
                }
            }
        }

        return near;
    }
}
