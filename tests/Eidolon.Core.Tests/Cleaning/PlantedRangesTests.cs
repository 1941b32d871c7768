using System.Numerics;
using Eidolon.Core.Cleaning;

namespace Eidolon.Core.Tests.Cleaning;

/// <summary>A point that glides over the floor at known speeds: what of it stands is known to the frame.</summary>
public sealed class PlantedRangesTests
{
    private const double Rate = 240;

    /// <summary>One stretch after another: how long, and how fast on the floor.</summary>
    private static Vector3[] Glide(params (double Seconds, double Speed)[] stretches)
    {
        var path = new List<Vector3> { Vector3.Zero };
        foreach (var (seconds, speed) in stretches)
        {
            for (var k = 0; k < (int)Math.Round(seconds * Rate); k++)
            {
                path.Add(path[^1] + new Vector3((float)(speed / Rate), 0, 0));
            }
        }

        return [.. path];
    }

    private static List<(double Start, double End)> Planted(params (double Seconds, double Speed)[] stretches) =>
        [.. PlantedRanges.Find([Glide(stretches)], Rate).Select(r => (r.Start / Rate, r.End / Rate))];

    [Fact]
    public void A_foot_that_drags_a_little_stands_and_one_that_glides_does_not()
    {
        var (start, end) = Assert.Single(Planted((0.5, 1), (0.5, 0.12), (0.5, 1)));
        Assert.Equal(0.5, start, 0.02);
        Assert.Equal(1.0, end, 0.02);
        Assert.Empty(Planted((0.5, 1), (0.5, 0.25), (0.5, 1)));
    }

    [Theory]
    [InlineData(0.07, false)]
    [InlineData(0.13, true)]
    public void A_touch_is_no_contact(double seconds, bool planted) =>
        Assert.Equal(planted ? 1 : 0, Planted((0.5, 1), (seconds, 0), (0.5, 1)).Count);

    [Fact]
    public void A_twitch_of_a_centimetre_breaks_no_stand_and_a_step_does()
    {
        var (start, end) = Assert.Single(Planted((0.5, 1), (0.3, 0), (0.02, 0.5), (0.3, 0), (0.5, 1)));
        Assert.Equal(0.5, start, 0.02);
        Assert.Equal(1.12, end, 0.02);
        // Out and back again within a twentieth of a second.
        Assert.Single(Planted((0.5, 1), (0.3, 0), (0.03, 0.5), (0.03, -0.5), (0.3, 0), (0.5, 1)));
        Assert.Equal(2, Planted((0.5, 1), (0.3, 0), (0.1, 0.5), (0.3, 0), (0.5, 1)).Count);
    }

    [Fact]
    public void A_contact_ends_where_the_foot_is_no_longer_as_still_as_in_its_middle()
    {
        // Rolling in and out at 10 cm a second is below what a foot may drag, yet this one stood far more still.
        var (start, end) = Assert.Single(Planted((0.5, 1), (0.15, 0.1), (0.6, 0.02), (0.15, 0.1), (0.5, 1)));
        Assert.Equal(0.65, start, 0.02);
        Assert.Equal(1.25, end, 0.02);
    }
}
