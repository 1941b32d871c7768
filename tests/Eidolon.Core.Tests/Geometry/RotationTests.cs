using System.Numerics;
using CsCheck;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Tests.Geometry;

public sealed class RotationTests
{
    private static readonly Gen<Quaternion> AnyTurn = Gen.Select(Gen.Double[-1, 1], Gen.Double[-1, 1], Gen.Double[-1, 1], Gen.Double[-1, 1])
        .Where((x, y, z, w) => (x * x) + (y * y) + (z * z) + (w * w) > 0.05)
        .Select((x, y, z, w) => Quaternion.Normalize(new Quaternion((float)x, (float)y, (float)z, (float)w)));

    [Theory]
    [InlineData("XYZ")]
    [InlineData("XZY")]
    [InlineData("YXZ")]
    [InlineData("YZX")]
    [InlineData("ZXY")]
    [InlineData("ZYX")]
    public void Euler_angles_come_back_as_the_same_turn(string text)
    {
        Assert.True(RotationOrder.TryParse(text, out var order));
        AnyTurn.Sample(q =>
        {
            var (a, b, c) = Rotations.ToEuler(order, q);
            Assert.True(Rotations.Angle(q, Rotations.FromEuler(order, a, b, c)) < 1e-5f);
        });
    }

    [Theory]
    [InlineData("XYZ", 1)]
    [InlineData("ZXY", -1)]
    [InlineData("YZX", 1)]
    [InlineData("XZY", -1)]
    public void Euler_angles_hold_at_the_pole(string text, int sign)
    {
        RotationOrder.TryParse(text, out var order);
        Gen.Select(Gen.Double[-3, 3], Gen.Double[-3, 3])
            .Sample(
                (a, c) =>
                {
                    var q = Rotations.FromEuler(order, a, sign * Math.PI / 2, c);
                    var (x, y, z) = Rotations.ToEuler(order, q);
                    Assert.True(Rotations.Angle(q, Rotations.FromEuler(order, x, y, z)) < 2e-3f);
                }
            );
    }

    [Fact]
    public void Logarithm_undoes_the_exponential() =>
        AnyTurn.Sample(q => Assert.True(Rotations.Angle(q, Rotations.Exp(Rotations.Log(q))) < 1e-5f));

    [Fact]
    public void Shortest_arc_turns_one_direction_onto_the_other() =>
        Gen.Select(AnyTurn, AnyTurn)
            .Sample(
                (p, q) =>
                {
                    Vector3 a = Vector3.Transform(Vector3.UnitX, p),
                        b = Vector3.Transform(Vector3.UnitX, q);
                    Assert.True((Vector3.Transform(a, Rotations.Between(a, b)) - b).Length() < 1e-4f);
                }
            );

    [Fact]
    public void Shortest_arc_holds_beside_the_opposite_direction() =>
        Gen.Select(AnyTurn, Gen.Float[0, 0.01f], AnyTurn)
            .Sample(
                (p, angle, q) =>
                {
                    var a = Vector3.Transform(Vector3.UnitX, p);
                    var b = Vector3.Transform(-a, Quaternion.CreateFromAxisAngle(Vector3.Transform(Vector3.UnitY, q), angle));
                    Assert.True((Vector3.Transform(a, Rotations.Between(a, b)) - b).Length() < 1e-5f);
                }
            );

    [Fact]
    public void Kabsch_finds_a_turn_and_a_shift_it_was_given() =>
        Gen.Select(AnyTurn, Gen.Int[0, 100000])
            .Sample(
                (q, seed) =>
                {
                    var random = new Random(seed);
                    var from = Enumerable
                        .Range(0, 5)
                        .Select(_ => new Vector3(random.NextSingle(), random.NextSingle(), random.NextSingle()))
                        .ToArray();
                    var shift = new Vector3(1, -2, 3);
                    var (turn, moved, rms) = Kabsch.Fit(from, Array.ConvertAll(from, p => Vector3.Transform(p, q) + shift));
                    Assert.True(rms < 1e-5f);
                    Assert.True(Rotations.Angle(turn, q) < 1e-3f && (moved - shift).Length() < 1e-3f);
                }
            );

    [Fact]
    public void Assignment_is_the_cheapest_of_all() =>
        Gen.Select(Gen.Int[1, 5], Gen.Int[1, 5], Gen.Int[0, 1 << 20])
            .Sample(
                (rows, cols, seed) =>
                {
                    var random = new Random(seed);
                    var cost = new double[rows, cols];
                    for (var i = 0; i < rows; i++)
                    {
                        for (var j = 0; j < cols; j++)
                        {
                            cost[i, j] = random.NextDouble();
                        }
                    }

                    const double gate = 0.6;
                    var got = Hungarian.Assign(cost, gate);
                    Assert.Equal(got.Count(j => j >= 0), got.Where(j => j >= 0).Distinct().Count());
                    Assert.Equal(Best(cost, 0, [], gate), got.Select((j, i) => j < 0 ? gate : cost[i, j]).Sum(), 9);
                }
            );

    private static double Best(double[,] cost, int row, HashSet<int> used, double gate)
    {
        if (row == cost.GetLength(0))
        {
            return 0;
        }

        var best = gate + Best(cost, row + 1, used, gate);
        for (var j = 0; j < cost.GetLength(1); j++)
        {
            if (cost[row, j] < gate && used.Add(j))
            {
                best = Math.Min(best, cost[row, j] + Best(cost, row + 1, used, gate));
                used.Remove(j);
            }
        }

        return best;
    }

    [Fact]
    public void Low_pass_keeps_slow_and_removes_fast_motion_without_delay()
    {
        var n = 600;
        float Slow(int i) => MathF.Sin(i * MathF.Tau * 1 / 120);
        var data = Enumerable.Range(0, n).Select(i => Slow(i) + (0.2f * MathF.Sin(i * MathF.Tau * 40 / 120))).ToArray();
        new Butterworth(8, 120).Apply(data, 0, 1, n);
        for (var i = 60; i < n - 60; i++)
        {
            Assert.InRange(data[i] - Slow(i), -0.01f, 0.01f);
        }
    }
}
