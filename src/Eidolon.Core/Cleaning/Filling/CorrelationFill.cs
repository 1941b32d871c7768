using System.Numerics;
using Eidolon.Core.Markers;
using MathNet.Numerics.LinearAlgebra;

namespace Eidolon.Core.Cleaning;

/// <summary>
/// Foretells the marker from the markers around it, in the frame of the steadiest of them, as it moved with them in the rest of the take:
/// a ridge regression, which keeps the strong common directions and drops the weak ones; what it is off at both ends fades into the gap.
/// </summary>
/// <remarks>
/// After Gløersen &amp; Federolf, "Predicting missing marker trajectories in human motion data using marker intercorrelations", PLoS ONE 2016.
/// </remarks>
internal sealed class CorrelationFill
{
    private const int MostPredictors = 12;
    private const int MostRows = 420;
    private const int FewestRows = 40;

    /// <summary>So many of the steadiest make the frame; as many as <see cref="CycleFill"/> takes, so that it is worked out once.</summary>
    internal const int Based = 4;

    /// <summary>Frames of a gap that are asked how unusual they are.</summary>
    private const int Looks = 12;

    /// <summary>Movements smaller than this are noise, metres.</summary>
    private const double Noise = 0.0007;

    /// <summary>Null when too few mates are seen throughout, or never together with the marker.</summary>
    /// <param name="frames">The local frame of some markers.</param>
    /// <param name="novelty">
    /// How much farther off than usual the guess is to be expected because the markers around lie as they hardly do elsewhere: the root of one plus
    /// the mean leverage of the gap's frames (Hoaglin &amp; Welsch 1978); 1 where all is as usual.
    /// </param>
    public static Vector3[]? Fill(
        MarkerTake take,
        int marker,
        Gap gap,
        ReadOnlySpan<int> mates,
        Func<int[], LocalFrame> frames,
        out double novelty
    )
    {
        novelty = 1;
        if (mates.Length < 3)
        {
            return null;
        }

        int[] predictors = [.. mates[..Math.Min(MostPredictors, mates.Length)]];
        var frame = frames(predictors[..Math.Min(Based, predictors.Length)]);
        var rows = Rows(take, marker, gap, predictors);
        var width = (predictors.Length * 3) + 1;
        if (rows.Length < Math.Max(FewestRows, width))
        {
            return null;
        }

        var x = Matrix<double>.Build.Dense(rows.Length, width);
        var y = Matrix<double>.Build.Dense(rows.Length, 3);
        var local = new double[width];
        for (var r = 0; r < rows.Length; r++)
        {
            var there = frame.At(rows[r]);
            Features(take, rows[r], predictors, there, local);
            x.SetRow(r, local);
            var p = LocalFrame.In(there, take[rows[r], marker]);
            (y[r, 0], y[r, 1], y[r, 2]) = (p.X, p.Y, p.Z);
        }

        // Centred, so that the ridge does not pull the mean; the last column stays the constant.
        var means = x.ColumnSums() / rows.Length;
        means[width - 1] = 0;
        var yMean = y.ColumnSums() / rows.Length;
        for (var r = 0; r < rows.Length; r++)
        {
            for (var c = 0; c < width - 1; c++)
            {
                x[r, c] -= means[c];
            }

            for (var c = 0; c < 3; c++)
            {
                y[r, c] -= yMean[c];
            }
        }

        var normal = x.TransposeThisAndMultiply(x);
        for (var c = 0; c < width; c++)
        {
            normal[c, c] += rows.Length * Noise * Noise;
        }

        var factor = normal.Cholesky();
        var weights = factor.Solve(x.TransposeThisAndMultiply(y));
        Vector3 Guess(int f, (Quaternion Turn, Vector3 Shift) there)
        {
            Features(take, f, predictors, there, local);
            double px = yMean[0],
                py = yMean[1],
                pz = yMean[2];
            for (var c = 0; c < width - 1; c++)
            {
                var v = local[c] - means[c];
                px += v * weights[c, 0];
                py += v * weights[c, 1];
                pz += v * weights[c, 2];
            }

            return new Vector3(
                (float)(px + weights[width - 1, 0]),
                (float)(py + weights[width - 1, 1]),
                (float)(pz + weights[width - 1, 2])
            );
        }

        var at = new (Quaternion Turn, Vector3 Shift)[gap.Length];
        var values = new Vector3[gap.Length];
        for (var k = 0; k < values.Length; k++)
        {
            at[k] = frame.At(gap.Start + k);
            values[k] = Guess(gap.Start + k, at[k]);
        }

        novelty = Novelty();
        double Novelty()
        {
            var looks = Math.Min(gap.Length, Looks);
            var probes = Matrix<double>.Build.Dense(width, looks);
            for (var i = 0; i < looks; i++)
            {
                var k = ((2 * i) + 1) * gap.Length / (2 * looks);
                Features(take, gap.Start + k, predictors, at[k], local);
                for (var c = 0; c < width; c++)
                {
                    probes[c, i] = local[c] - means[c];
                }
            }

            return Math.Sqrt(1 + probes.PointwiseMultiply(factor.Solve(probes)).ColumnSums().Average());
        }

        Vector3? Off(int f)
        {
            if (f < 0 || f >= take.FrameCount || !MarkerTake.Seen(take[f, marker]) || !AllSeen(take, f, predictors))
            {
                return null;
            }

            var there = frame.At(f);
            return LocalFrame.In(there, take[f, marker]) - Guess(f, there);
        }

        EdgeFit.Carry(values, gap, Off, Memory(take, gap, Off));
        for (var k = 0; k < values.Length; k++)
        {
            values[k] = LocalFrame.Out(at[k], values[k]);
        }

        return values;
    }

    /// <summary>Frames after which the offset from the foretold path has lost most of itself, from the seconds around the gap.</summary>
    private static double Memory(MarkerTake take, Gap gap, Func<int, Vector3?> off)
    {
        var lag = Math.Max(2, (int)(take.FrameRate / 12));
        double here = 0,
            there = 0;
        var n = 0;
        var reach = (int)(1.5 * take.FrameRate);
        for (var f = Math.Max(0, gap.Start - reach); f < Math.Min(take.FrameCount, gap.End + reach); f += 3)
        {
            if ((f + lag < gap.Start || f > gap.End) && off(f) is { } a && off(f + lag) is { } b)
            {
                here += (a.LengthSquared() + b.LengthSquared()) / 2;
                there += Vector3.Dot(a, b);
                n++;
            }
        }

        var kept = n < 10 || here < 1e-12 ? 0.7 : Math.Clamp(there / here, 0.05, 0.98);
        return -lag / Math.Log(kept);
    }

    private static void Features(MarkerTake take, int f, int[] predictors, (Quaternion Turn, Vector3 Shift) at, double[] row)
    {
        for (var i = 0; i < predictors.Length; i++)
        {
            var p = LocalFrame.In(at, take[f, predictors[i]]);
            (row[3 * i], row[(3 * i) + 1], row[(3 * i) + 2]) = (p.X, p.Y, p.Z);
        }

        row[^1] = 1;
    }

    /// <summary>Frames to learn from: where marker and predictors are seen, densest around the gap.</summary>
    private static int[] Rows(MarkerTake take, int marker, Gap gap, int[] predictors)
    {
        var good = new List<int>();
        var (from, to) = CycleFill.Window(take, gap);
        for (var f = from; f < to; f++)
        {
            if ((f < gap.Start || f > gap.End) && MarkerTake.Seen(take[f, marker]) && AllSeen(take, f, predictors))
            {
                good.Add(f);
            }
        }

        if (good.Count <= MostRows)
        {
            return [.. good];
        }

        var near = good.OrderBy(f => f < gap.Start ? gap.Start - f : f - gap.End)
            .Take((int)(4 * take.FrameRate))
            .Where((_, i) => i % 4 == 0)
            .Take(MostRows / 3);
        var step = good.Count / (double)(MostRows * 2 / 3);
        return [.. near.Concat(Enumerable.Range(0, MostRows * 2 / 3).Select(i => good[(int)(i * step)])).Distinct().Order()];
    }

    internal static bool AllSeen(MarkerTake take, int frame, ReadOnlySpan<int> markers)
    {
        var row = take.At(frame);
        foreach (var m in markers)
        {
            if (!MarkerTake.Seen(row[m]))
            {
                return false;
            }
        }

        return true;
    }
}
