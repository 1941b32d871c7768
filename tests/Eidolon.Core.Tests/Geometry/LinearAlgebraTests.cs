using System.Numerics;
using CsCheck;
using Eidolon.Core.Geometry;
using MathNet.Numerics.LinearAlgebra;
using MathNet.Numerics.LinearAlgebra.Double;

namespace Eidolon.Core.Tests.Geometry;

public sealed class LinearAlgebraTests
{
    private static readonly Gen<(int N, int Seed)> Systems = Gen.Select(Gen.Int[1, 19], Gen.Int[0, 1 << 20]);

    private static Matrix<double> Definite(int n, int seed)
    {
        var random = new Random(seed);
        var a = Matrix<double>.Build.Dense(n, n + 2, (_, _) => random.NextDouble() - 0.5);
        return a.TransposeAndMultiply(a) + (Matrix<double>.Build.DenseIdentity(n) * 0.05);
    }

    /// <summary>Row by row; above the diagonal stands what must never be looked at.</summary>
    private static double[] Lower(Matrix<double> a) =>
        [
            .. Enumerable
                .Range(0, a.RowCount * a.RowCount)
                .Select(k => k % a.RowCount > k / a.RowCount ? double.NaN : a[k / a.RowCount, k % a.RowCount]),
        ];

    private static Vector3 Mean(Vector3[] places) => places.Aggregate(Vector3.Zero, (sum, p) => sum + p) / places.Length;

    [Fact]
    public void A_definite_system_is_solved_from_its_lower_half() =>
        Systems.Sample(
            (n, seed) =>
            {
                var a = Definite(n, seed);
                var random = new Random(seed + 1);
                var b = Enumerable.Range(0, n).Select(_ => random.NextDouble() - 0.5).ToArray();
                var l = Lower(a);
                Assert.True(DenseCholesky.Factor(l, n));
                var x = (double[])b.Clone();
                DenseCholesky.Solve(l, n, x);
                Assert.True(
                    (a * DenseVector.OfArray(x) - (MathNet.Numerics.LinearAlgebra.Vector<double>)DenseVector.OfArray(b)).L2Norm() < 1e-9
                );
                // The forward half alone: L·y = b.
                var y = (double[])b.Clone();
                DenseCholesky.Forward(l, n, y);
                for (var i = 0; i < n; i++)
                {
                    Assert.Equal(b[i], Enumerable.Range(0, i + 1).Sum(k => l[(i * n) + k] * y[k]), 1e-10);
                }
            }
        );

    [Theory]
    [InlineData(0)]
    [InlineData(-1)]
    [InlineData(double.NaN)]
    public void What_is_not_definite_is_refused(double last)
    {
        double[] a = [4, 0, 0, 0, 9, 0, 0, 0, last];
        Assert.False(DenseCholesky.Factor(a, 3));
    }

    [Fact]
    public void Sums_and_products_reach_to_the_last_number() =>
        Gen.Int[0, 37]
            .Sample(n =>
            {
                var a = Enumerable.Range(0, n).Select(i => i + 1.0).ToArray();
                var b = Enumerable.Range(0, n).Select(i => 2.0 - i).ToArray();
                Assert.Equal(Enumerable.Range(0, n).Sum(i => a[i] * b[i]), DenseCholesky.Dot(a, b), 1e-9);
                var sum = (double[])a.Clone();
                DenseCholesky.AddTo(sum, b);
                Assert.Equal(Enumerable.Repeat(3.0, n), sum);
            });

    [Fact]
    public void Kabsch_leaves_noise_where_it_is_and_mirrors_nothing() =>
        Gen.Int[0, 1 << 20]
            .Sample(seed =>
            {
                var random = new Random(seed);
                Vector3 Any() => new(random.NextSingle() - 0.5f, random.NextSingle() - 0.5f, random.NextSingle() - 0.5f);
                var from = Enumerable.Range(0, 6).Select(_ => Any()).ToArray();
                // A mirror image has no turn that fits: the best is still a turn, and what is left over is said.
                var mirrored = Array.ConvertAll(from, p => p with { X = -p.X });
                var (turn, shift, rms) = Kabsch.Fit(from, mirrored);
                Assert.Equal(1, turn.Length(), 1e-4f);
                var left = Math.Sqrt(from.Select((p, i) => (Vector3.Transform(p, turn) + shift - mirrored[i]).LengthSquared()).Average());
                Assert.Equal(left, rms, 1e-5);
                // No small turn or shift beside it is better.
                foreach (var axis in new[] { 0, 1, 2 })
                {
                    foreach (var step in new[] { -0.02, 0.02 })
                    {
                        var other = Rotations.AboutAxis(axis, step) * turn;
                        var moved = Mean(mirrored) - Vector3.Transform(Mean(from), other);
                        var there = from.Select((p, i) => (Vector3.Transform(p, other) + moved - mirrored[i]).LengthSquared()).Average();
                        Assert.True(Math.Sqrt(there) > rms - 1e-5);
                    }
                }
            });

    [Fact]
    public void Kabsch_wants_as_many_places_on_either_side()
    {
        Assert.Throws<ArgumentException>(() => Kabsch.Fit([Vector3.Zero], [Vector3.Zero, Vector3.One]));
        Assert.Throws<ArgumentException>(() => Kabsch.Fit([], []));
    }

    [Fact]
    public void Assignment_takes_nothing_at_the_gate_or_beyond()
    {
        Assert.Equal(
            [-1, 0],
            Hungarian.Assign(
                new[,]
                {
                    { 1.0, 5.0 },
                    { 0.2, 1.0 },
                },
                1
            )
        );
        Assert.Equal(
            [-1],
            Hungarian.Assign(
                new[,]
                {
                    { double.PositiveInfinity },
                },
                1
            )
        );
        Assert.Equal([-1, -1], Hungarian.Assign(new double[2, 0], 1));
    }
}
