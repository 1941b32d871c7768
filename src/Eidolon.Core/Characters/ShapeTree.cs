using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters;

/// <summary>Questions about the tree of a skeleton in its rest pose.</summary>
internal sealed class ShapeTree
{
    private readonly int[] _depth;
    private readonly List<int>[] _children;

    public ShapeTree(Skeleton skeleton)
    {
        Skeleton = skeleton;
        _depth = new int[skeleton.Count];
        _children = [.. Enumerable.Range(0, skeleton.Count).Select(_ => new List<int>())];
        for (var j = 0; j < skeleton.Count; j++)
        {
            var p = skeleton.Parents[j];
            if (p >= 0)
            {
                _depth[j] = _depth[p] + 1;
                _children[p].Add(j);
            }
        }

        Leaves = [.. Enumerable.Range(0, skeleton.Count).Where(j => _children[j].Count == 0)];
    }

    public Skeleton Skeleton { get; }

    public List<int> Leaves { get; }

    public int Branches(int joint) => _children[joint].Count;

    public bool Below(int ancestor, int joint)
    {
        for (var j = joint; j >= 0; j = Skeleton.Parents[j])
        {
            if (j == ancestor)
            {
                return true;
            }
        }

        return false;
    }

    public int Common(int a, int b)
    {
        while (a != b && a >= 0 && b >= 0)
        {
            if (_depth[a] >= _depth[b])
            {
                a = Skeleton.Parents[a];
            }
            else
            {
                b = Skeleton.Parents[b];
            }
        }

        return a == b ? a : -1;
    }

    /// <summary>From an ancestor down to a joint, both included.</summary>
    public List<int> Path(int ancestor, int joint)
    {
        var path = new List<int>();
        for (var j = joint; j >= 0; j = Skeleton.Parents[j])
        {
            path.Add(j);
            if (j == ancestor)
            {
                break;
            }
        }

        path.Reverse();
        return path;
    }

    /// <summary>The two lowest leaves that meet only at the pelvis, on either side of it.</summary>
    public (int A, int B, int Pelvis)? Feet()
    {
        var p = Skeleton.RestPositions;
        float low = p.Min(x => x.Y),
            high = p.Max(x => x.Y);
        var size = high - low;
        (int, int, int)? best = null;
        var bestScore = float.MaxValue;
        foreach (var a in Leaves)
        {
            foreach (var b in Leaves)
            {
                if (b <= a || p[a].Y > low + (0.25f * size) || p[b].Y > low + (0.25f * size))
                {
                    continue;
                }

                var c = Common(a, b);
                // Legs are long: the meeting point lies well above both feet.
                if (c < 0 || p[c].Y - MathF.Max(p[a].Y, p[b].Y) < 0.25f * size || _depth[a] - _depth[c] < 3 || _depth[b] - _depth[c] < 3)
                {
                    continue;
                }

                var mirrored = ((p[a] + p[b]) / 2) - p[c];
                var score = MathF.Abs(p[a].Y - p[b].Y) + MathF.Abs(mirrored.X * 0.5f) + (0.3f * (p[a].Y + p[b].Y - (2 * low)));
                if (score < bestScore)
                {
                    (best, bestScore) = ((a, b, c), score);
                }
            }
        }

        return best;
    }

    /// <summary>The two leaves farthest apart sideways above the pelvis, and where their chains meet.</summary>
    public (int A, int B, int Chest)? HandTips(int pelvis, int footA, int footB)
    {
        var p = Skeleton.RestPositions;
        var across = p[footA] - p[footB];
        across = Vector3.Normalize(new Vector3(across.X, 0, across.Z));
        (int, int, int)? best = null;
        var bestScore = float.MinValue;
        foreach (var a in Leaves)
        {
            foreach (var b in Leaves)
            {
                var c = Common(a, b);
                if (
                    a == b
                    || c < 0
                    || c == pelvis
                    || !Below(pelvis, c)
                    || Below(c, footA)
                    || _depth[a] - _depth[c] < 3
                    || _depth[b] - _depth[c] < 3
                )
                {
                    continue;
                }

                var span = Vector3.Dot(p[a] - p[b], across);
                var uneven = MathF.Abs((p[a] - p[c]).Length() - (p[b] - p[c]).Length()) + MathF.Abs(p[a].Y - p[b].Y);
                if (span - (2 * uneven) > bestScore)
                {
                    (best, bestScore) = ((a, b, c), span - (2 * uneven));
                }
            }
        }

        return best;
    }
}
