using System.Numerics;

namespace Eidolon.Core.Markers;

/// <summary>Finds a known constellation among nameless points by the distances within it.</summary>
/// <remarks>Interpretation tree with pairwise constraints, Grimson &amp; Lozano-Pérez 1984.</remarks>
public static class ShapeMatcher
{
    /// <summary>The point of each marker of the shape (−1 when it is not there), or null when fewer than <paramref name="least"/> fit.</summary>
    /// <param name="tolerance">Farthest that a distance may differ, metres.</param>
    public static int[]? Find(IReadOnlyList<Vector3> points, IReadOnlyList<Vector3> shape, float tolerance, int least)
    {
        var search = new Search(points, shape, tolerance, least);
        return search.Run();
    }

    private sealed class Search(IReadOnlyList<Vector3> points, IReadOnlyList<Vector3> shape, float tolerance, int least)
    {
        /// <summary>Branches looked at: a cloud that fits everywhere must not stop the stage.</summary>
        private const int MostBranches = 400_000;

        private readonly int[] _pick = new int[shape.Count];
        private int[]? _best;
        private int _most;
        private float _error = float.MaxValue;
        private int _branches;

        public int[]? Run()
        {
            Array.Fill(_pick, -1);
            Try(0, 0, 0);
            return _most >= least ? _best : null;
        }

        private void Try(int depth, int count, float error)
        {
            if (++_branches > MostBranches || count + shape.Count - depth < Math.Max(least, _most))
            {
                return;
            }

            if (depth == shape.Count)
            {
                if (count > _most || (count == _most && error < _error))
                {
                    (_best, _most, _error) = ((int[])_pick.Clone(), count, error);
                }

                return;
            }

            for (var i = 0; i < points.Count; i++)
            {
                if (Array.IndexOf(_pick, i, 0, depth) >= 0 || !float.IsFinite(points[i].X))
                {
                    continue;
                }

                var sum = error;
                var fits = true;
                for (var k = 0; k < depth && fits; k++)
                {
                    if (_pick[k] < 0)
                    {
                        continue;
                    }

                    var off = MathF.Abs(Vector3.Distance(points[i], points[_pick[k]]) - Vector3.Distance(shape[depth], shape[k]));
                    fits = off < tolerance;
                    sum += off;
                }

                if (fits)
                {
                    _pick[depth] = i;
                    Try(depth + 1, count + 1, sum);
                }
            }

            _pick[depth] = -1;
            Try(depth + 1, count, error);
        }
    }
}
