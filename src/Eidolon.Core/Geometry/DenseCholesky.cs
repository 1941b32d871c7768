using System.Numerics;

namespace Eidolon.Core.Geometry;

/// <summary>In-place Cholesky factor and solve of dense symmetric positive definite systems, row-major, lower triangle used.</summary>
public static class DenseCholesky
{
    /// <summary>Factors A = L·Lᵀ in place. False when A is not positive definite.</summary>
    public static bool Factor(Span<double> a, int n)
    {
        for (var i = 0; i < n; i++)
        {
            var ri = a.Slice(i * n, n);
            for (var j = 0; j <= i; j++)
            {
                var s = ri[j] - Dot(ri[..j], a.Slice(j * n, j));
                if (i == j)
                {
                    if (!(s > 1e-300))
                    {
                        return false;
                    }

                    ri[j] = Math.Sqrt(s);
                }
                else
                {
                    ri[j] = s / a[(j * n) + j];
                }
            }
        }

        return true;
    }

    /// <summary>Solves L·Lᵀ x = b in place after <see cref="Factor"/>.</summary>
    public static void Solve(ReadOnlySpan<double> l, int n, Span<double> b)
    {
        Forward(l, n, b);
        for (var i = n - 1; i >= 0; i--)
        {
            var s = b[i] / l[(i * n) + i];
            b[i] = s;
            for (var k = 0; k < i; k++)
            {
                b[k] -= l[(i * n) + k] * s;
            }
        }
    }

    /// <summary>Solves L y = b in place.</summary>
    public static void Forward(ReadOnlySpan<double> l, int n, Span<double> b)
    {
        for (var i = 0; i < n; i++)
        {
            b[i] = (b[i] - Dot(l.Slice(i * n, i), b[..i])) / l[(i * n) + i];
        }
    }

    /// <summary>a += b with SIMD.</summary>
    public static void AddTo(Span<double> a, ReadOnlySpan<double> b)
    {
        var w = Vector<double>.Count;
        var i = 0;
        for (; i <= a.Length - w; i += w)
        {
            (new Vector<double>(a[i..]) + new Vector<double>(b[i..])).CopyTo(a[i..]);
        }

        for (; i < a.Length; i++)
        {
            a[i] += b[i];
        }
    }

    /// <summary>a += s·b with SIMD.</summary>
    public static void AddScaled(Span<double> a, ReadOnlySpan<double> b, double s)
    {
        var (w, i, scale) = (Vector<double>.Count, 0, new Vector<double>(s));
        for (; i <= b.Length - w; i += w)
        {
            (new Vector<double>(a[i..]) + (new Vector<double>(b[i..]) * scale)).CopyTo(a[i..]);
        }

        for (; i < b.Length; i++)
        {
            a[i] += s * b[i];
        }
    }

    /// <summary>Dot product with SIMD.</summary>
    public static double Dot(ReadOnlySpan<double> a, ReadOnlySpan<double> b)
    {
        var w = Vector<double>.Count;
        var acc = Vector<double>.Zero;
        var i = 0;
        for (; i <= a.Length - w; i += w)
        {
            acc += new Vector<double>(a[i..]) * new Vector<double>(b[i..]);
        }

        var s = Vector.Sum(acc);
        for (; i < a.Length; i++)
        {
            s += a[i] * b[i];
        }

        return s;
    }
}
