using System.Numerics;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;

namespace Eidolon.Core.Solving;

/// <summary>The normal equations of a kinematic tree as LᵀDL, which has no fill-in: a row holds a degree of freedom and its ancestors only.</summary>
/// <remarks>Featherstone, "Rigid Body Dynamics Algorithms", 2008, § 6.5.</remarks>
internal sealed class TreeFactor
{
    private readonly int _n;
    private readonly TreeRows _rows;
    private readonly double[] _l;
    private readonly double[] _scale;

    public TreeFactor(ArticulatedModel model)
    {
        (_n, _rows) = (model.DofCount, model.Rows);
        _l = new double[_rows.Length];
        _scale = new double[_n];
    }

    /// <summary>Factors H + λ·diag(H). False when a pivot is not positive.</summary>
    public bool Of(TreeNormalEquations equations, double lambda)
    {
        equations.Hessian.CopyTo(_l, 0);
        for (var k = 0; k < _n; k++)
        {
            ref var diagonal = ref _l[_rows.Diagonal(k)];
            diagonal += (lambda * diagonal) + 1e-12;
        }

        for (var k = _n - 1; k >= 0; k--)
        {
            var pivot = _l[_rows.Diagonal(k)];
            if (!(pivot > 0))
            {
                return false;
            }

            _scale[k] = 1 / Math.Sqrt(pivot);
            Eliminate(k, pivot);
        }

        return true;
    }

    /// <summary>Takes a degree of freedom out of the rows of its ancestors, which lie as the beginning of its own.</summary>
    private void Eliminate(int k, double pivot)
    {
        var (chain, lanes) = (_rows.Chains[k], Vector<double>.Count);
        ref var row = ref _l[_rows.Starts[k]];
        ref var all = ref MemoryMarshal.GetArrayDataReference(_l);
        for (var i = chain.Length - 2; i >= 0; i--)
        {
            var a = Unsafe.Add(ref row, i) / pivot;
            var by = new Vector<double>(a);
            ref var to = ref Unsafe.Add(ref all, _rows.Starts[chain[i]]);
            for (var j = 0; j <= i; j += lanes)
            {
                (Vector.LoadUnsafe(ref to, (nuint)j) - (by * Vector.LoadUnsafe(ref row, (nuint)j))).StoreUnsafe(ref to, (nuint)j);
            }

            Unsafe.Add(ref row, i) = a;
        }
    }

    /// <summary>Replaces b by the solution of the factored system.</summary>
    public void Solve(Span<double> b)
    {
        for (var k = _n - 1; k >= 0; k--)
        {
            Upwards(b, k);
        }

        for (var k = 0; k < _n; k++)
        {
            b[k] /= _l[_rows.Diagonal(k)];
            Downwards(b, k);
        }
    }

    /// <summary>
    /// The first half of a solution, D^−½ L^−ᵀ b: of two halves the product is that of one whole with the other's right side. Nothing but the
    /// degrees of freedom in <paramref name="support"/> is touched.
    /// </summary>
    /// <param name="support">Where b is not zero, with all ancestors, the last first.</param>
    public void FirstHalf(Span<double> b, ReadOnlySpan<int> support)
    {
        foreach (var k in support)
        {
            Upwards(b, k);
            b[k] *= _scale[k];
        }
    }

    /// <summary>The second half, L⁻¹ D^−½ b.</summary>
    public void SecondHalf(Span<double> b)
    {
        for (var k = 0; k < _n; k++)
        {
            b[k] *= _scale[k];
            Downwards(b, k);
        }
    }

    private void Upwards(Span<double> b, int k)
    {
        var (chain, v) = (_rows.Chains[k], b[k]);
        var row = _l.AsSpan(_rows.Starts[k], chain.Length);
        for (var i = 0; i < chain.Length - 1; i++)
        {
            b[chain[i]] -= row[i] * v;
        }
    }

    private void Downwards(Span<double> b, int k)
    {
        var (chain, v) = (_rows.Chains[k], b[k]);
        var row = _l.AsSpan(_rows.Starts[k], chain.Length);
        for (var i = 0; i < chain.Length - 1; i++)
        {
            v -= row[i] * b[chain[i]];
        }

        b[k] = v;
    }
}
