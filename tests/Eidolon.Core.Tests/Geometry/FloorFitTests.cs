using System.Numerics;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Tests.Geometry;

/// <summary>Clouds laid on each other on the floor.</summary>
public sealed class FloorFitTests
{
    private static Vector3[] Cloud(int seed, int count = 12)
    {
        var random = new Random(seed);
        return [.. Enumerable.Range(0, count).Select(_ => new Vector3(random.NextSingle(), random.NextSingle(), random.NextSingle()))];
    }

    [Theory]
    [InlineData(0)]
    [InlineData(35)]
    [InlineData(-170)]
    public void A_cloud_that_was_turned_and_moved_comes_back(double degrees)
    {
        var a = Cloud(1);
        var away = Rotations.AboutAxis(1, degrees * Math.PI / 180);
        var b = a.Select(p => Vector3.Transform(p, away) + new Vector3(3, 0, -2)).ToArray();
        var fit = default(FloorFit);
        fit.Add(a, b);
        var (turn, move) = fit.Lay();
        for (var k = 0; k < a.Length; k++)
        {
            Assert.InRange(Vector3.Distance(a[k], Vector3.Transform(b[k], turn) + move), 0, 1e-5f);
        }

        Assert.InRange(fit.Distance, 0, 1e-5);
    }

    [Fact]
    public void What_is_left_is_the_distance_after_the_best_turn()
    {
        var (a, b) = (Cloud(2), Cloud(3));
        var fit = default(FloorFit);
        fit.Add(a, b);
        double Left(Quaternion turn, Vector3 move) =>
            Math.Sqrt(a.Zip(b).Average(x => Vector3.DistanceSquared(x.First, Vector3.Transform(x.Second, turn) + move)));
        var (best, at) = fit.Lay();
        Assert.Equal(Left(best, at), fit.Distance, 5);
        foreach (var off in new[] { -0.02, 0.02 })
        {
            Assert.True(Left(Rotations.AboutAxis(1, off) * best, at) > fit.Distance);
        }

        // Heights are never made alike.
        fit = default;
        fit.Add(a, [.. a.Select(p => p + new Vector3(0, 0.5f, 0))]);
        Assert.Equal(0.5, fit.Distance, 5);
    }

    [Fact]
    public void What_was_added_is_taken_out_again_and_nothing_lies_where_it_is()
    {
        var (whole, window) = (default(FloorFit), default(FloorFit));
        whole.Add(Cloud(4), Cloud(5));
        window.Add(Cloud(6), Cloud(7));
        window.Add(Cloud(4), Cloud(5));
        window.Add(Cloud(6), Cloud(7), -1);
        Assert.Equal(whole.Distance, window.Distance, 9);
        Assert.InRange(Rotations.Angle(whole.Lay().Turn, window.Lay().Turn), 0, 1e-5);
        var none = default(FloorFit);
        Assert.Equal((Quaternion.Identity, Vector3.Zero, 0.0), (none.Lay().Turn, none.Lay().Move, none.Distance));
    }
}
