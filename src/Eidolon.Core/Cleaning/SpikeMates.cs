using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Cleaning;

/// <summary>
/// Which markers move like a marker does, and how much of each: two sets that share none, so that a spike of a mate shows in one of them only.
/// A marker's way less its mates' is far calmer than the way itself: what a limb does, all of its markers do.
/// </summary>
/// <remarks>
/// Weights by ridge regression (Hoerl &amp; Kennard 1970) of how a marker leaves the cubic around it on how its mates leave theirs; worst
/// samples are left out once.
/// </remarks>
internal sealed class SpikeMates
{
    /// <summary>Frames the weights are learnt from, at most.</summary>
    private const int MostSamples = 1500;

    private const int Candidates = 10,
        InASet = 3,
        FewestSamples = 60;

    /// <summary>How a still marker leaves its cubic by noise alone, metres; smaller moves teach nothing.</summary>
    private const double Noise = 0.0008;

    private readonly MarkerTake _take;
    private readonly int[] _frames;
    private readonly Vector3[][] _bends;
    private readonly Vector3[][] _places;

    public SpikeMates(MarkerTake take)
    {
        _take = take;
        var usable = Math.Max(0, take.FrameCount - 4);
        var count = Math.Min(MostSamples, usable);
        _frames = [.. Enumerable.Range(0, count).Select(i => 2 + (int)((long)i * usable / Math.Max(1, count)))];
        _bends = new Vector3[take.MarkerCount][];
        _places = new Vector3[take.MarkerCount][];
        for (var m = 0; m < take.MarkerCount; m++)
        {
            _places[m] = Array.ConvertAll(_frames, f => take[f, m]);
            _bends[m] = Array.ConvertAll(_frames, f =>
                take[f, m] - Spikes.Cubic(take[f - 2, m], take[f - 1, m], take[f + 1, m], take[f + 2, m], 1, 0)
            );
        }
    }

    /// <summary>Mates with their weights, at most two sets; none where no marker moves along.</summary>
    public IReadOnlyList<(int Marker, float Weight)[]> Of(int marker)
    {
        var near = Enumerable
            .Range(0, _take.MarkerCount)
            .Where(q => q != marker)
            .Select(q => (Marker: q, Distance: Distance(marker, q)))
            .Where(q => !double.IsNaN(q.Distance))
            .OrderBy(q => q.Distance)
            .Take(Candidates)
            .Select(q => (q.Marker, Left: Left(marker, [q.Marker])))
            .Where(q => !double.IsNaN(q.Left))
            .OrderBy(q => q.Left)
            .Select(q => q.Marker)
            .ToArray();
        var sets = new List<(int, float)[]>();
        foreach (var first in new[] { 0, 1 })
        {
            var set = near.Where((_, i) => i % 2 == first).Take(InASet).ToArray();
            if (set.Length > 0 && Fit(marker, set) is { } weights)
            {
                sets.Add([.. set.Select((q, i) => (q, (float)weights[i]))]);
            }
        }

        return sets;
    }

    private double Distance(int a, int b)
    {
        double sum = 0;
        var n = 0;
        for (var i = 0; i < _frames.Length; i += 7)
        {
            var d = (_places[a][i] - _places[b][i]).Length();
            (sum, n) = float.IsNaN(d) ? (sum, n) : (sum + d, n + 1);
        }

        return n * 7 < _frames.Length / 3 ? double.NaN : sum / n;
    }

    /// <summary>What is left of the marker's own bends, middle of the larger half, metres.</summary>
    private double Left(int marker, int[] set)
    {
        if (Fit(marker, set) is not { } weights)
        {
            return double.NaN;
        }

        var left = Residuals(marker, set, weights).Where(r => !float.IsNaN(r)).ToArray();
        Array.Sort(left);
        return left.Length == 0 ? double.NaN : left[left.Length * 9 / 10];
    }

    private double[]? Fit(int marker, int[] set)
    {
        var keep = Array.ConvertAll(_frames, _ => true);
        double[]? weights = null;
        for (var pass = 0; pass < 2; pass++)
        {
            weights = Solve(marker, set, keep);
            if (weights is null)
            {
                return null;
            }

            var left = Residuals(marker, set, weights);
            var sorted = left.Where(r => !float.IsNaN(r)).Order().ToArray();
            var limit = Math.Max(5 * sorted[sorted.Length / 2], 10 * (float)Noise);
            keep = Array.ConvertAll(left, r => r < limit);
        }

        return weights;
    }

    private float[] Residuals(int marker, int[] set, double[] weights)
    {
        var left = new float[_frames.Length];
        for (var i = 0; i < left.Length; i++)
        {
            var r = _bends[marker][i];
            for (var k = 0; k < set.Length; k++)
            {
                r -= _bends[set[k]][i] * (float)weights[k];
            }

            left[i] = r.Length();
        }

        return left;
    }

    private double[]? Solve(int marker, int[] set, bool[] keep)
    {
        var n = set.Length;
        var (a, b) = (new double[n * n], new double[n]);
        var count = 0;
        for (var i = 0; i < _frames.Length; i++)
        {
            var own = _bends[marker][i];
            if (!keep[i] || float.IsNaN(own.X) || set.Any(q => float.IsNaN(_bends[q][i].X)))
            {
                continue;
            }

            count++;
            for (var r = 0; r < n; r++)
            {
                var row = _bends[set[r]][i];
                b[r] += Vector3.Dot(row, own);
                for (var c = 0; c <= r; c++)
                {
                    a[(r * n) + c] += Vector3.Dot(row, _bends[set[c]][i]);
                }
            }
        }

        if (count < FewestSamples)
        {
            return null;
        }

        for (var r = 0; r < n; r++)
        {
            a[(r * n) + r] += 3 * Noise * Noise * count;
            for (var c = 0; c < r; c++)
            {
                a[(c * n) + r] = a[(r * n) + c];
            }
        }

        if (!DenseCholesky.Factor(a, n))
        {
            return null;
        }

        DenseCholesky.Solve(a, n, b);
        return b;
    }
}
