using System.Numerics;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Tests.Geometry;

/// <summary>One cloud of points laid on another by a turn about the vertical and a move over the floor.</summary>
public sealed class FloorFitTests
{
    private static Vector3[] Cloud(int seed)
    {
        var random = new Random(seed);
        return [.. Enumerable.Range(0, 20).Select(_ => new Vector3(random.NextSingle(), random.NextSingle() * 2, random.NextSingle() * 3))];
    }

    [Theory]
    [InlineData(0)]
    [InlineData(40)]
    [InlineData(-100)]
    [InlineData(179)]
    public void A_cloud_that_was_turned_and_moved_is_laid_back(double degrees)
    {
        var (turn, move) = (Rotations.AboutAxis(1, degrees * Math.PI / 180), new Vector3(2, 0, -5));
        var there = Cloud(3);
        Vector3[] here = [.. there.Select(p => Vector3.Transform(p, turn) + move)];
        var fit = new FloorFit();
        fit.Add(here, there);
        Assert.True(fit.Distance < 1e-3, $"{fit.Distance}");
        var (found, by) = fit.Lay();
        Assert.True(Rotations.Angle(found, turn) < 1e-3f);
        Assert.True((by - move).Length() < 1e-3f, $"{by}");
    }

    [Fact]
    public void What_no_turn_and_move_explains_is_the_distance_and_pairs_can_be_taken_out()
    {
        var (a, b) = (Cloud(1), Cloud(2));
        var fit = new FloorFit();
        fit.Add(a, b);
        var both = fit.Distance;
        // Raised by 30 cm: no turn about the vertical explains that.
        var raised = new FloorFit();
        raised.Add([.. a.Select(p => p + new Vector3(0, 0.3f, 0))], a);
        Assert.Equal(0.3, raised.Distance, 4);
        fit.Add(b, a);
        fit.Add(b, a, -1);
        Assert.Equal(both, fit.Distance, 6);
        Assert.Equal(0, new FloorFit().Distance);
        Assert.Equal((Quaternion.Identity, Vector3.Zero), new FloorFit().Lay());
    }
}
