namespace Eidolon.Core.Geometry;

/// <summary>In-place Cholesky factor and solve of symmetric positive definite systems whose entries lie near the diagonal.</summary>
/// <remarks>Golub &amp; Van Loan, "Matrix Computations", 4.3.5. Stored by rows: [row × (width + 1) + width − (row − column)], lower triangle.</remarks>
public static class BandCholesky
{
    /// <summary>Factors A = L·Lᵀ in place. False when A is not positive definite.</summary>
    /// <param name="width">Entries to the left of the diagonal.</param>
    public static bool Factor(Span<double> a, int n, int width)
    {
        var row = width + 1;
        for (var i = 0; i < n; i++)
        {
            var first = Math.Max(0, i - width);
            for (var j = first; j <= i; j++)
            {
                var sum = a[(i * row) + width - (i - j)];
                for (var k = Math.Max(first, j - width); k < j; k++)
                {
                    sum -= a[(i * row) + width - (i - k)] * a[(j * row) + width - (j - k)];
                }

                if (i != j)
                {
                    a[(i * row) + width - (i - j)] = sum / a[(j * row) + width];
                }
                else if (sum > 1e-300)
                {
                    a[(i * row) + width] = Math.Sqrt(sum);
                }
                else
                {
                    return false;
                }
            }
        }

        return true;
    }

    /// <summary>Solves L·Lᵀ x = b in place after <see cref="Factor"/>.</summary>
    public static void Solve(ReadOnlySpan<double> l, int n, int width, Span<double> b)
    {
        var row = width + 1;
        for (var i = 0; i < n; i++)
        {
            var sum = b[i];
            for (var k = Math.Max(0, i - width); k < i; k++)
            {
                sum -= l[(i * row) + width - (i - k)] * b[k];
            }

            b[i] = sum / l[(i * row) + width];
        }

        for (var i = n - 1; i >= 0; i--)
        {
            var sum = b[i];
            for (var k = i + 1; k <= Math.Min(n - 1, i + width); k++)
            {
                sum -= l[(k * row) + width - (k - i)] * b[k];
            }

            b[i] = sum / l[(i * row) + width];
        }
    }
}
