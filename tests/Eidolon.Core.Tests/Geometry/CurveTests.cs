using System.Numerics;
using CsCheck;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Tests.Geometry;

public sealed class CurveTests
{
    [Fact]
    public void A_hermite_curve_meets_its_ends_with_its_slopes() =>
        Gen.Select(Gen.Float[-3, 3], Gen.Float[-3, 3], Gen.Float[-3, 3], Gen.Float[-3, 3])
            .Sample(
                (p0, m0, p1, m1) =>
                {
                    float At(float t) => CubicSpline.Hermite(p0, m0, p1, m1, t);
                    Assert.Equal(p0, At(0), 1e-5f);
                    Assert.Equal(p1, At(1), 1e-5f);
                    Assert.Equal(m0, (At(0.001f) - At(-0.001f)) / 0.002f, 0.02f);
                    Assert.Equal(m1, (At(1.001f) - At(0.999f)) / 0.002f, 0.02f);
                    // A cubic: its middle is known.
                    Assert.Equal(((p0 + p1) / 2) + ((m0 - m1) / 8), At(0.5f), 1e-5f);
                }
            );

    [Fact]
    public void An_ease_begins_and_ends_at_rest_and_never_turns_back()
    {
        Assert.Equal((0, 0.5f, 1), (CubicSpline.MinimumJerk(0), CubicSpline.MinimumJerk(0.5f), CubicSpline.MinimumJerk(1)));
        Assert.Equal((0, 1), (CubicSpline.MinimumJerk(-4), CubicSpline.MinimumJerk(7)));
        Assert.Equal(1.875f, (CubicSpline.MinimumJerk(0.501f) - CubicSpline.MinimumJerk(0.499f)) / 0.002f, 0.01f);
        for (var i = 0; i < 100; i++)
        {
            Assert.True(CubicSpline.MinimumJerk((i + 1) / 100f) > CubicSpline.MinimumJerk(i / 100f));
        }

        Assert.True(CubicSpline.MinimumJerk(0.01f) < 1.1e-5f && 1 - CubicSpline.MinimumJerk(0.99f) < 1.1e-5f);
    }

    [Fact]
    public void Places_between_places_follow_any_parabola() =>
        Gen.Select(Gen.Float[-2, 2], Gen.Float[-2, 2], Gen.Float[-2, 2], Gen.Float[0, 1])
            .Sample(
                (a, b, c, t) =>
                {
                    Vector3 At(float x) => new(a + (b * x) + (c * x * x), b - (a * x), c * x * x);
                    var got = CubicSpline.CatmullRom(At(-1), At(0), At(1), At(2), t);
                    Assert.True((got - At(t)).Length() < 1e-4f);
                }
            );

    [Theory]
    [InlineData(6, 120)]
    [InlineData(6, 30)]
    [InlineData(10, 100)]
    [InlineData(20, 240)]
    public void The_cut_off_halves_the_power_in_both_passes_together(double cutoff, double rate)
    {
        var filter = new Butterworth(cutoff, rate);
        float Gain(double hz)
        {
            var wave = Enumerable.Range(0, (int)(rate * 20)).Select(i => (float)Math.Sin(2 * Math.PI * hz * i / rate)).ToArray();
            filter.Apply(wave, 0, 1, wave.Length);
            // No delay: what is left of the wave lies on the wave.
            var middle = Enumerable.Range((int)(rate * 5), (int)(rate * 10)).ToArray();
            return (float)middle.Average(i => 2 * wave[i] * Math.Sin(2 * Math.PI * hz * i / rate));
        }

        Assert.Equal(Math.Sqrt(0.5), Gain(cutoff), 0.05);
        Assert.InRange(Gain(cutoff / 4), 0.99f, 1.001f);
        Assert.InRange(Gain(Math.Min(cutoff * 2.2, rate * 0.45)), -0.01f, 0.12f);
    }

    [Fact]
    public void A_filter_takes_its_own_column_and_leaves_straight_lines_and_short_data()
    {
        var filter = new Butterworth(6, 120);
        var data = Enumerable.Range(0, 300).Select(i => i % 3 == 1 ? i * 0.5f : i % 7).ToArray();
        var before = (float[])data.Clone();
        filter.Apply(data, 1, 3, 100);
        for (var i = 0; i < data.Length; i++)
        {
            Assert.Equal(before[i], data[i], i % 3 == 1 ? 0.01f : 0);
        }

        float[] few = [1, 9, 1];
        filter.Apply(few, 0, 1, 3);
        Assert.Equal([1, 9, 1], few);
    }

    [Theory]
    [InlineData(0, 120)]
    [InlineData(60, 120)]
    [InlineData(6, 0)]
    [InlineData(double.NaN, 120)]
    public void A_cut_off_that_cannot_be_is_refused(double cutoff, double rate) =>
        Assert.Throws<ArgumentOutOfRangeException>(() => new Butterworth(cutoff, rate));

    [Fact]
    public void The_distance_of_two_segments_is_that_of_their_nearest_places() =>
        Gen.Int[0, 1 << 20]
            .Sample(
                seed =>
                {
                    var random = new Random(seed);
                    Vector3 Any() => new(random.NextSingle() - 0.5f, random.NextSingle() - 0.5f, random.NextSingle() - 0.5f);
                    // Some parallel, some only points.
                    Vector3 p1 = Any(),
                        q1 = random.Next(8) == 0 ? p1 : Any(),
                        p2 = Any(),
                        q2 = random.Next(8) switch
                        {
                            0 => p2,
                            1 => p2 + ((q1 - p1) * 0.7f),
                            _ => Any(),
                        };
                    var best = float.PositiveInfinity;
                    for (var i = 0; i <= 60; i++)
                    {
                        for (var k = 0; k <= 60; k++)
                        {
                            best = Math.Min(best, (Vector3.Lerp(p1, q1, i / 60f) - Vector3.Lerp(p2, q2, k / 60f)).Length());
                        }
                    }

                    var got = Segments.Distance(p1, q1, p2, q2);
                    Assert.InRange(got, best - 0.03f, best + 1e-4f);
                    Assert.Equal(got, Segments.Distance(q2, p2, p1, q1), 1e-4f);
                },
                iter: 300
            );
}
