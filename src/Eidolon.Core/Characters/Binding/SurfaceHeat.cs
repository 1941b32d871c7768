using System.Numerics;

namespace Eidolon.Core.Characters.Binding;

/// <summary>Heat that spreads over a surface while every vertex is kept warm by what is nearest to it.</summary>
/// <remarks>
/// Baran and Popović, "Automatic rigging and animation of 3D characters", 2007, section 4: (H − Δ) w = H p, Δ the cotangent Laplacian, H the
/// inverse squared distance to the nearest bone, p one where that bone is the one asked for. All bones are solved side by side by conjugate
/// gradients with a diagonal preconditioner (Saad, "Iterative methods for sparse linear systems", 2003, algorithm 9.1): a row of the matrix is
/// read once for all of them.
/// </remarks>
internal sealed class SurfaceHeat
{
    /// <summary>A vertex without surface is held this firmly.</summary>
    private const double Floor = 1e-4;

    private const int MostSteps = 800;

    /// <summary>What is left of the first error when it ends.</summary>
    private const double Enough = 1e-4;

    private readonly int[] _starts;
    private readonly int[] _columns;
    private readonly float[] _values;
    private readonly float[] _diagonal;
    private readonly float[] _hold;

    /// <param name="mesh">One vertex a place.</param>
    /// <param name="hold">How firmly each vertex is kept at its own heat, 1 by square metre.</param>
    public SurfaceHeat(BareMesh mesh, double[] hold)
    {
        var n = mesh.Positions.Length;
        var area = new double[n];
        var across = new Dictionary<(int, int), double>(3 * n);
        for (var t = 0; t < mesh.Triangles.Length; t += 3)
        {
            var corners = mesh.Triangles.AsSpan(t, 3);
            var (a, b, c) = (mesh.Positions[corners[0]], mesh.Positions[corners[1]], mesh.Positions[corners[2]]);
            double twice = Vector3.Cross(b - a, c - a).Length();
            for (var k = 0; k < 3; k++)
            {
                var (i, j, o) = (corners[k], corners[(k + 1) % 3], corners[(k + 2) % 3]);
                area[i] += twice / 6;
                Vector3 u = mesh.Positions[i] - mesh.Positions[o],
                    v = mesh.Positions[j] - mesh.Positions[o];
                // A thin triangle's cotangents are boundless, a blunt one's negative: both are held, so that heat stays between 0 and 1.
                var cot = Math.Clamp(Vector3.Dot(u, v) / Math.Max(twice, 1e-12), .05, 5) / 2;
                var edge = (Math.Min(i, j), Math.Max(i, j));
                across[edge] = across.GetValueOrDefault(edge) + cot;
            }
        }

        _hold = [.. area.Select((a, i) => (float)Math.Max(a * hold[i], Floor))];
        _diagonal = [.. _hold];
        _starts = new int[n + 1];
        foreach (var (i, j) in across.Keys)
        {
            _starts[i + 1]++;
            _starts[j + 1]++;
        }

        for (var i = 0; i < n; i++)
        {
            _starts[i + 1] += _starts[i];
        }

        var next = _starts[..n];
        (_columns, _values) = (new int[_starts[n]], new float[_starts[n]]);
        void Set(int i, int j, float w)
        {
            (_columns[next[i]], _values[next[i]]) = (j, -w);
            next[i]++;
            _diagonal[i] += w;
        }

        foreach (var ((i, j), w) in across)
        {
            Set(i, j, (float)w);
            Set(j, i, (float)w);
        }
    }

    /// <summary>The share of each heat at every vertex, 0 to 1.</summary>
    /// <param name="own">Which heat each vertex is kept at, 0 to <paramref name="count"/> − 1.</param>
    /// <param name="progress">From 0 to 1.</param>
    /// <returns>[vertex × count + heat]</returns>
    /// <exception cref="OperationCanceledException">It was cancelled.</exception>
    public float[] Spread(int[] own, int count, IProgress<double>? progress, CancellationToken cancel)
    {
        var size = own.Length * count;
        var (x, r, p, q) = (new float[size], new float[size], new float[size], new float[size]);
        for (var i = 0; i < own.Length; i++)
        {
            x[(i * count) + own[i]] = 1;
        }

        Apply(x, r, count);
        for (var k = 0; k < size; k++)
        {
            r[k] = (_hold[k / count] * x[k]) - r[k];
        }

        var (rho, before, step) = (new double[count], new double[count], new double[count]);
        double first = 0;
        for (var turn = 0; turn < MostSteps; turn++)
        {
            cancel.ThrowIfCancellationRequested();
            Products(r, r, rho, count, true);
            var left = rho.Sum();
            first = turn == 0 ? left : first;
            if (!(left > Enough * Enough * first))
            {
                break;
            }

            progress?.Report(Math.Min(1, Math.Log(first / left) / Math.Log(1 / (Enough * Enough))));
            for (var i = 0; i < own.Length; i++)
            {
                for (var c = 0; c < count; c++)
                {
                    var k = (i * count) + c;
                    var follow = turn > 0 && before[c] > 0 ? (float)(rho[c] / before[c]) : 0;
                    p[k] = (r[k] / _diagonal[i]) + (follow * p[k]);
                }
            }

            Apply(p, q, count);
            Products(p, q, step, count, false);
            for (var c = 0; c < count; c++)
            {
                step[c] = step[c] > 0 ? rho[c] / step[c] : 0;
                before[c] = rho[c];
            }

            for (var k = 0; k < size; k++)
            {
                var s = (float)step[k % count];
                x[k] += s * p[k];
                r[k] -= s * q[k];
            }
        }

        for (var k = 0; k < size; k++)
        {
            x[k] = Math.Clamp(x[k], 0, 1);
        }

        return x;
    }

    /// <summary>The matrix times many vectors side by side.</summary>
    private void Apply(float[] from, float[] to, int count)
    {
        var wide = Vector<float>.Count;
        for (var i = 0; i < _diagonal.Length; i++)
        {
            var row = to.AsSpan(i * count, count);
            var own = from.AsSpan(i * count, count);
            for (var c = 0; c < count; c++)
            {
                row[c] = _diagonal[i] * own[c];
            }

            for (var e = _starts[i]; e < _starts[i + 1]; e++)
            {
                var other = from.AsSpan(_columns[e] * count, count);
                var w = _values[e];
                var c = 0;
                for (; c <= count - wide; c += wide)
                {
                    (new Vector<float>(row[c..]) + (w * new Vector<float>(other[c..]))).CopyTo(row[c..]);
                }

                for (; c < count; c++)
                {
                    row[c] += w * other[c];
                }
            }
        }
    }

    /// <summary>Of each vector side by side the product with another, divided by the diagonal if wanted.</summary>
    private void Products(float[] a, float[] b, double[] sums, int count, bool divided)
    {
        Array.Clear(sums);
        for (var i = 0; i < _diagonal.Length; i++)
        {
            var by = divided ? 1 / _diagonal[i] : 1;
            for (var c = 0; c < count; c++)
            {
                sums[c] += a[(i * count) + c] * b[(i * count) + c] * by;
            }
        }
    }
}
