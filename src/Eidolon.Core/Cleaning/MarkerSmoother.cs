using System.Numerics;
using System.Runtime.InteropServices;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Cleaning;

/// <summary>
/// Zero-phase low-pass of every seen piece of every trajectory. Where a marker truly moves faster than the cut-off lets through (a strike, a landing),
/// what the filter would take is far above the noise: there a cut-off several times higher is used instead.
/// </summary>
/// <remarks>
/// Butterworth forwards and backwards; cut-off by residual analysis after Winter, "Biomechanics and Motor Control of Human Movement", 2009,
/// section 3.4.
/// </remarks>
public static class MarkerSmoother
{
    private const int Shortest = 8;

    /// <summary>How much higher the cut-off of impacts is.</summary>
    private const double ImpactTimes = 8;

    /// <summary>A filter cuts no nearer to half the frame rate than this, as a share of the rate.</summary>
    private const double NearestToHalf = 0.495;

    /// <summary>What the filter takes, in units of what it usually takes: from here on an impact begins, and from there on it is one.</summary>
    private const float Begins = 3.5f;

    private const float Impact = 7;

    /// <summary>The smoothed take, the share of kinetic energy kept (0 to 1), and the frames by marker that were spared as impacts.</summary>
    public static (MarkerTake Take, double EnergyKept, int[] Spared) Smooth(MarkerTake take, double cutoff, bool spareImpacts = true)
    {
        var result = take.Copy();
        var spared = new int[take.MarkerCount];
        var energy = new (double Before, double After)[take.MarkerCount];
        Parallel.For(0, take.MarkerCount, m =>
        {
            foreach (var (start, length) in Pieces(take, m))
            {
                spared[m] += Piece(take, result, m, start, length, cutoff, spareImpacts);
                for (var f = start + 1; f < start + length; f++)
                {
                    energy[m].Before += (take[f, m] - take[f - 1, m]).LengthSquared();
                    energy[m].After += (result[f, m] - result[f - 1, m]).LengthSquared();
                }
            }
        });
        var (before, after) = (energy.Sum(e => e.Before), energy.Sum(e => e.After));
        return (result, before > 0 ? after / before : 1, spared);
    }

    /// <summary>The smooth path for one marker and range only, faded in and out over its edges.</summary>
    public static MarkerTake Within(MarkerTake take, MarkerTake smooth, int marker, int from, int to)
    {
        var result = take.Copy();
        var fade = Math.Max(1, (int)(take.FrameRate / 12));
        for (var f = Math.Max(0, from - fade); f <= Math.Min(take.FrameCount - 1, to + fade); f++)
        {
            var outside = Math.Max(0, Math.Max(from - f, f - to));
            result[f, marker] = Vector3.Lerp(take[f, marker], smooth[f, marker], 1 - (outside / (float)(fade + 1)));
        }

        return result;
    }

    /// <summary>The cut-off at which what is taken away from a marker is as large as its noise, Hz; 6 to 20.</summary>
    public static double Cutoff(MarkerTake take, int marker)
    {
        var (start, length) = Pieces(take, marker).DefaultIfEmpty().MaxBy(p => p.Length);
        if (length < take.FrameRate)
        {
            return 12;
        }

        double[] tries = [.. Enumerable.Range(2, 22).Select(i => (double)i).Where(c => c < take.FrameRate / 2.5)];
        var rms = tries.Select(c => Residual(take, marker, start, length, c)).ToArray();
        // The straight end of the curve is noise alone; drawn back to nought it tells how large the noise is.
        var (a, b) = Line(tries[^6..], rms[^6..]);
        var noise = Math.Max(a, b < 0 ? 0 : rms[^1]);
        var at = Array.FindIndex(rms, r => r <= noise);
        return at < 0 ? 20 : Math.Clamp(tries[at], 6, 20);
    }

    private static double Residual(MarkerTake take, int marker, int start, int length, double cutoff)
    {
        var path = Copy(take, marker, start, length);
        Filter(path, cutoff, take.FrameRate);
        double sum = 0;
        for (var k = 0; k < length; k++)
        {
            sum += (path[k] - take[start + k, marker]).LengthSquared();
        }

        return Math.Sqrt(sum / length);
    }

    private static (double A, double B) Line(double[] x, double[] y)
    {
        double mx = x.Average(),
            my = y.Average();
        var b = x.Zip(y, (p, q) => (p - mx) * (q - my)).Sum() / x.Sum(p => (p - mx) * (p - mx));
        return (my - (b * mx), b);
    }

    private static IEnumerable<(int Start, int Length)> Pieces(MarkerTake take, int m)
    {
        var start = 0;
        for (var f = 0; f <= take.FrameCount; f++)
        {
            if (f < take.FrameCount && MarkerTake.Seen(take[f, m]))
            {
                continue;
            }

            if (f - start >= Shortest)
            {
                yield return (start, f - start);
            }

            start = f + 1;
        }
    }

    /// <returns>Frames in which an impact was spared.</returns>
    private static int Piece(MarkerTake take, MarkerTake result, int m, int start, int length, double cutoff, bool spareImpacts)
    {
        var low = Copy(take, m, start, length);
        Filter(low, cutoff, take.FrameRate);
        var high = low;
        var off = Array.Empty<float>();
        var usual = 0f;
        var fast = Math.Min(cutoff * ImpactTimes, take.FrameRate * NearestToHalf);
        if (spareImpacts && cutoff * 2 < take.FrameRate * 0.45)
        {
            high = Copy(take, m, start, length);
            Filter(high, fast, take.FrameRate);
            off = Strongest(low, high, Math.Max(2, (int)(take.FrameRate / cutoff / 4)));
            var sorted = off.Order().ToArray();
            usual = MathF.Max(1e-5f, sorted[sorted.Length / 2]);
        }

        var spared = 0;
        for (var k = 0; k < length; k++)
        {
            var w = off.Length == 0 ? 0 : Math.Clamp(((off[k] / usual) - Begins) / (Impact - Begins), 0, 1);
            w = w * w * (3 - (2 * w));
            spared += w > 0.5f ? 1 : 0;
            result[start + k, m] = Vector3.Lerp(low[k], high[k], w);
        }

        return spared;
    }

    /// <summary>The largest difference of two paths within so many frames, softened at its edges.</summary>
    private static float[] Strongest(Vector3[] a, Vector3[] b, int reach)
    {
        var off = new float[a.Length];
        for (var k = 0; k < off.Length; k++)
        {
            var d = (a[k] - b[k]).Length();
            for (var i = Math.Max(0, k - reach); i <= Math.Min(off.Length - 1, k + reach); i++)
            {
                off[i] = MathF.Max(off[i], d);
            }
        }

        return off;
    }

    private static Vector3[] Copy(MarkerTake take, int m, int start, int length)
    {
        var path = new Vector3[length];
        for (var k = 0; k < length; k++)
        {
            path[k] = take[start + k, m];
        }

        return path;
    }

    private static void Filter(Vector3[] path, double cutoff, double rate)
    {
        var filter = new Butterworth(cutoff, rate);
        var floats = MemoryMarshal.Cast<Vector3, float>(path.AsSpan());
        for (var axis = 0; axis < 3; axis++)
        {
            filter.Apply(floats, axis, 3, path.Length);
        }
    }
}
