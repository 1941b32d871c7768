using CsCheck;
using Eidolon.Core.Geometry;
using MathNet.Numerics.LinearAlgebra;

namespace Eidolon.Core.Tests.Geometry;

public sealed class BandCholeskyTests
{
    [Fact]
    public void It_solves_what_a_dense_solver_solves() =>
        Gen.Select(Gen.Int[1, 12], Gen.Int[0, 4], Gen.Double[-1, 1].Array[200])
            .Sample(
                (n, width, values) =>
                {
                    var dense = Matrix<double>.Build.Dense(n, n);
                    for (var i = 0; i < n; i++)
                    {
                        for (var j = Math.Max(0, i - width); j <= i; j++)
                        {
                            // Heavy on the diagonal, so that it is positive definite.
                            dense[i, j] = dense[j, i] = values[(i * 12) + j] + (i == j ? 10 : 0);
                        }
                    }

                    var band = new double[n * (width + 1)];
                    for (var i = 0; i < n; i++)
                    {
                        for (var j = Math.Max(0, i - width); j <= i; j++)
                        {
                            band[(i * (width + 1)) + width - (i - j)] = dense[i, j];
                        }
                    }

                    var b = values.AsSpan(180, n).ToArray();
                    var wanted = dense.Solve(Vector<double>.Build.DenseOfArray(b));
                    Assert.True(BandCholesky.Factor(band, n, width));
                    BandCholesky.Solve(band, n, width, b);
                    for (var i = 0; i < n; i++)
                    {
                        Assert.Equal(wanted[i], b[i], 1e-9);
                    }
                }
            );

    [Fact]
    public void A_matrix_that_is_not_positive_definite_is_told() => Assert.False(BandCholesky.Factor([0, 1, 2, 1], 2, 1));
}
