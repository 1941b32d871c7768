using System.Numerics;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Tests.Labelling;

/// <summary>Where trajectories are cut before anybody is named: gaps, jumps and exchanges, and nowhere else.</summary>
public sealed class FragmentCutterTests
{
    private const int Frames = 60,
        At = 30;

    /// <summary>A hand's swing: a metre to and fro in a second, a second dot beside it.</summary>
    private static MarkerTake Swing(double rate, Vector3 beside)
    {
        var take = new MarkerTake(["a", "b"], rate, Frames);
        for (var f = 0; f < Frames; f++)
        {
            var t = (float)(Math.Tau * f / rate);
            take[f, 0] = new Vector3(0.5f * MathF.Sin(t), 1 + (0.2f * MathF.Cos(t)), 0);
            take[f, 1] = take[f, 0] + beside;
        }

        return take;
    }

    private static (int Column, int Start, int End)[] Cut(MarkerTake take) =>
        [.. FragmentCutter.Cut(take, _ => null, _ => false).Select(c => (c.Column, c.Start, c.End))];

    [Theory]
    [InlineData(30)]
    [InlineData(120)]
    [InlineData(240)]
    public void A_path_that_goes_on_stays_whole(double rate) =>
        Assert.Equal([(0, 0, Frames - 1), (1, 0, Frames - 1)], Cut(Swing(rate, new Vector3(0, 0, 0.05f))));

    [Theory]
    [InlineData(30)]
    [InlineData(60)]
    [InlineData(120)]
    public void Dots_that_trade_places_are_cut_at_that_very_frame(double rate)
    {
        var take = Swing(rate, new Vector3(0, 0, 0.05f));
        for (var f = At; f < Frames; f++)
        {
            (take[f, 0], take[f, 1]) = (take[f, 1], take[f, 0]);
        }

        Assert.Equal([(0, 0, At - 1), (1, 0, At - 1), (0, At, Frames - 1), (1, At, Frames - 1)], Cut(take));
    }

    [Fact]
    public void A_dot_that_is_suddenly_elsewhere_is_cut_there()
    {
        // Its place was taken by a ghost; nobody traded with it.
        var take = Swing(120, new Vector3(0, 0, 0.5f));
        for (var f = At; f < Frames; f++)
        {
            take[f, 0] += new Vector3(0.03f, 0.02f, 0);
        }

        Assert.Equal([(0, 0, At - 1), (1, 0, Frames - 1), (0, At, Frames - 1)], Cut(take));
    }

    [Fact]
    public void A_gap_ends_a_fragment_and_a_given_name_is_not_cut()
    {
        var take = Swing(120, new Vector3(0, 0, 0.5f));
        for (var f = At; f < At + 4; f++)
        {
            take[f, 0] = MarkerTake.Hidden;
        }

        for (var f = At; f < Frames; f++)
        {
            take[f, 1] += new Vector3(0.05f, 0, 0);
        }

        var cut = FragmentCutter.Cut(take, n => n == "b" ? (0, 3) : null, _ => false);
        Assert.Equal([(0, 0, At - 1), (1, 0, Frames - 1), (0, At + 4, Frames - 1)], cut.Select(c => (c.Column, c.Start, c.End)));
        Assert.Equal((0, 3), cut[1].Given);
    }
}
