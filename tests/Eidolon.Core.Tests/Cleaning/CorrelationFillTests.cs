using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Tests.Cleaning;

public sealed class CorrelationFillTests
{
    private const double Rate = 120;
    private const int Frames = 300;
    private static readonly Gap Hidden = new(140, 179);

    private static readonly Vector3[] Body =
    [
        new(0, 0, 0),
        new(0.2f, 0, 0),
        new(0, 0.25f, 0),
        new(0.05f, 0.1f, 0.2f),
        new(0.22f, 0.2f, 0.1f),
        new(-0.1f, 0.15f, 0.12f),
    ];

    /// <summary>A stiff body that wanders and turns; the first marker is the one that will be hidden.</summary>
    /// <param name="tremble">How much the others tremble, millimetres.</param>
    /// <param name="inGap">The same within the gap.</param>
    /// <param name="own">How much it trembles itself.</param>
    private static MarkerTake Stiff(float tremble, float inGap, float swing = 0, float own = 0.05f)
    {
        var random = new Random(7);
        Vector3 Noise(float mm) => new Vector3((float)Gauss(random), (float)Gauss(random), (float)Gauss(random)) * (mm / 1000);
        var take = new MarkerTake([.. Enumerable.Range(0, Body.Length).Select(i => $"M{i}")], Rate, Frames);
        for (var f = 0; f < Frames; f++)
        {
            var turn = Rotations.FromEuler(RotationOrder.ZXY, 0.4 * Math.Sin(f / 40.0), 0.3 * Math.Cos(f / 31.0), f / 200.0);
            var at = new Vector3(MathF.Sin(f / 50f), 1, f / 150f);
            for (var i = 0; i < Body.Length; i++)
            {
                // One of the mates swings as a lock of hair does, and the hidden marker with it.
                var bent = i is 0 or 5 ? new Vector3(0, swing * MathF.Sin(f / 9f) * (i == 0 ? 1 : 0.5f), 0) : Vector3.Zero;
                take[f, i] =
                    at
                    + Vector3.Transform(Body[i] + bent, turn)
                    + Noise(
                        i == 0 ? own
                        : f >= Hidden.Start && f <= Hidden.End ? inGap
                        : tremble
                    );
            }
        }

        return take;
    }

    private static double Gauss(Random random) =>
        Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());

    private static (double Worst, double Novelty) Fill(MarkerTake truth, int length = 40)
    {
        var take = truth.Copy();
        var gap = Hidden with { End = Hidden.Start + length - 1 };
        for (var f = gap.Start; f <= gap.End; f++)
        {
            take[f, 0] = MarkerTake.Hidden;
        }

        var values = CorrelationFill.Fill(take, 0, gap, [1, 2, 3, 4, 5], m => new LocalFrame(take, m, 0), out var novelty);
        Assert.NotNull(values);
        return (values.Select((v, k) => (v - truth[gap.Start + k, 0]).Length()).Max() * 1000, novelty);
    }

    [Fact]
    public void Mates_that_tremble_by_less_than_noise_tell_nothing()
    {
        // Seen in 60 frames only, and noisy: what little its mates tremble agrees with it by chance. Learnt by heart it would throw the guess
        // about by centimetres once they tremble more.
        var truth = Stiff(tremble: 0.05f, inGap: 0.8f, own: 0.8f);
        for (var f = 0; f < Frames; f++)
        {
            if (f is < 100 or >= 200)
            {
                truth[f, 0] = MarkerTake.Hidden;
            }
        }

        var (worst, _) = Fill(truth);
        Assert.True(worst < 5, $"{worst:0.00} mm");
    }

    [Fact]
    public void A_marker_that_swings_with_another_is_told_from_it()
    {
        var (worst, _) = Fill(Stiff(0.1f, 0.1f, swing: 0.03f));
        Assert.True(worst < 1.5, $"{worst:0.00} mm");
    }

    [Fact]
    public void A_gap_like_no_other_frame_is_known_as_such()
    {
        var usual = Fill(Stiff(0.5f, 0.5f)).Novelty;
        var unlike = Fill(Stiff(0.5f, 15f)).Novelty;
        Assert.InRange(usual, 1, 1.2);
        Assert.True(unlike > 2 * usual, $"{usual} {unlike}");
    }

    [Fact]
    public void Too_few_mates_or_frames_are_not_enough()
    {
        var take = Stiff(0.1f, 0.1f);
        Assert.Null(CorrelationFill.Fill(take, 0, Hidden, [1, 2], m => new LocalFrame(take, m, 0), out _));
        for (var f = 0; f < Frames; f++)
        {
            if (f > 20)
            {
                take[f, 0] = MarkerTake.Hidden;
            }
        }

        Assert.Null(CorrelationFill.Fill(take, 0, Hidden, [1, 2, 3, 4], m => new LocalFrame(take, m, 0), out _));
    }
}
