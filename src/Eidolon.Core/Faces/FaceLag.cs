using System.Numerics;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Video;

namespace Eidolon.Core.Faces;

/// <summary>When a face's recording began on the body's clock: by one clap at which the mouth opens, or by a jaw that both saw.</summary>
public static class FaceLag
{
    /// <summary>The two begin within so many seconds of each other.</summary>
    public const double Most = 1.5;

    /// <summary>The jaw opens by so much at least at a clap.</summary>
    private const float Opens = 0.25f;

    /// <summary>So long before and after a clap the hands' way is looked at: longer, and it matters that they part slower than they met. Seconds.</summary>
    private const double Meeting = 0.017;

    /// <summary>Two jaws agree when they correlate so well.</summary>
    private const double Agree = 0.6;

    /// <summary>Seconds from the beginning of the body's recording to the face's; null when nothing tells.</summary>
    /// <param name="begins">Second of its recording at which the motion begins: later than 0 when it was cut.</param>
    /// <returns>Also by what it was found: "clap" or "jaw".</returns>
    public static (double Seconds, string By)? Find(Motion body, FaceTake face, double begins = 0)
    {
        var jaw = Channel(face, FaceUnits.Jaw);
        if (jaw is null)
        {
            return null;
        }

        if (JawOf(body) is { } own && Between(own, body.FrameRate, jaw, face.FrameRate, -begins) is { } lag)
        {
            return (lag + begins, "jaw");
        }

        return Clap(body) + begins is { } clap && Peak(jaw, face.FrameRate, clap) is { } opened ? (clap - opened, "clap") : null;
    }

    /// <summary>Second at which both hands meet, between frames; null when they never do.</summary>
    public static double? Clap(Motion body)
    {
        var s = body.Skeleton;
        int l = s.IndexOf(BodyRole.HandL),
            r = s.IndexOf(BodyRole.HandR);
        if (l < 0 || r < 0)
        {
            return null;
        }

        var (left, right) = (new Vector3[body.FrameCount], new Vector3[body.FrameCount]);
        var (turns, places) = (new Quaternion[s.Count], new Vector3[s.Count]);
        for (var f = 0; f < body.FrameCount; f++)
        {
            ForwardKinematics.World(body, f, turns, places);
            (left[f], right[f]) = (places[l], places[r]);
        }

        if (ClapFinder.InMotion(left, right, body.FrameRate) is not { } rough)
        {
            return null;
        }

        // The nearest moment of the two, between frames.
        var around = (int)Math.Round(rough * body.FrameRate);
        var reach = Math.Max(2, (int)(0.1 * body.FrameRate));
        var best = around;
        for (var f = Math.Max(1, around - reach); f <= Math.Min(body.FrameCount - 2, around + reach); f++)
        {
            best = Vector3.Distance(left[f], right[f]) < Vector3.Distance(left[best], right[best]) ? f : best;
        }

        return (best + Lowest(best, f => Vector3.Distance(left[f], right[f]), body)) / body.FrameRate;
    }

    /// <summary>
    /// Where a parabola through the frames around is lowest, in frames from the middle one: hands that meet slow down, and noise moves the single
    /// nearest frame about.
    /// </summary>
    private static double Lowest(int around, Func<int, double> of, Motion body)
    {
        var reach = Math.Max(1, (int)Math.Round(Meeting * body.FrameRate));
        double n = 0,
            x2 = 0,
            x4 = 0,
            y = 0,
            xy = 0,
            x2y = 0;
        for (var k = -reach; k <= reach; k++)
        {
            if (around + k < 0 || around + k >= body.FrameCount)
            {
                return 0;
            }

            var v = of(around + k);
            n++;
            x2 += k * k;
            x4 += (double)k * k * k * k;
            y += v;
            xy += k * v;
            x2y += k * k * v;
        }

        var curve = ((n * x2y) - (x2 * y)) / ((n * x4) - (x2 * x2));
        return curve < 1e-9 ? 0 : Math.Clamp(-(xy / x2) / (2 * curve), -reach, reach);
    }

    /// <summary>How far the second signal's beginning is behind the first's, seconds, by where they correlate best; null when nowhere well.</summary>
    /// <param name="around">Where the lag is looked for, <see cref="Most"/> to either side.</param>
    public static double? Between(ReadOnlySpan<float> a, double rateA, ReadOnlySpan<float> b, double rateB, double around = 0)
    {
        var step = Math.Min(1 / rateA, 1 / rateB);
        var reach = (int)Math.Ceiling(Most / step);
        var scores = new double[(2 * reach) + 1];
        for (var k = -reach; k <= reach; k++)
        {
            scores[k + reach] = Correlation(a, rateA, b, rateB, around + (k * step), step);
        }

        var best = 0;
        for (var k = 1; k < scores.Length; k++)
        {
            best = scores[k] > scores[best] ? k : best;
        }

        if (scores[best] < Agree || best == 0 || best == scores.Length - 1)
        {
            return null;
        }

        return around + ((best - reach + Vertex(-scores[best - 1], -scores[best], -scores[best + 1])) * step);
    }

    /// <summary>Where a parabola through three neighbours is lowest, in steps from the middle one.</summary>
    private static double Vertex(double before, double at, double after)
    {
        var curve = before - (2 * at) + after;
        return Math.Abs(curve) < 1e-12 ? 0 : Math.Clamp((before - after) / (2 * curve), -0.5, 0.5);
    }

    private static double Correlation(ReadOnlySpan<float> a, double rateA, ReadOnlySpan<float> b, double rateB, double lag, double step)
    {
        var (from, to) = (Math.Max(0, lag), Math.Min(a.Length / rateA, lag + (b.Length / rateB)));
        double n = 0,
            sa = 0,
            sb = 0,
            aa = 0,
            bb = 0,
            ab = 0;
        for (var t = from; t < to; t += step)
        {
            double x = Sample(a, t * rateA),
                y = Sample(b, (t - lag) * rateB);
            if (double.IsFinite(x) && double.IsFinite(y))
            {
                n++;
                sa += x;
                sb += y;
                aa += x * x;
                bb += y * y;
                ab += x * y;
            }
        }

        if (n * step < 1)
        {
            return -1;
        }

        var (va, vb) = (aa - (sa * sa / n), bb - (sb * sb / n));
        return va < 1e-9 || vb < 1e-9 ? -1 : (ab - (sa * sb / n)) / Math.Sqrt(va * vb);
    }

    private static double Sample(ReadOnlySpan<float> v, double at)
    {
        var k = (int)at;
        return k < 0 || k >= v.Length ? double.NaN
            : k + 1 >= v.Length ? v[k]
            : v[k] + ((v[k + 1] - v[k]) * (at - k));
    }

    /// <summary>The second at which the jaw is widest open near a clap, on the face's own clock.</summary>
    private static double? Peak(float[] jaw, double rate, double clap)
    {
        var best = -1;
        var sharpest = 0f;
        var span = Math.Max(1, (int)Math.Round(0.12 * rate));
        for (var f = span; f < jaw.Length - span; f++)
        {
            if (Math.Abs((f / rate) - clap) > Most || !(jaw[f] >= jaw[f - 1] && jaw[f] >= jaw[f + 1]))
            {
                continue;
            }

            // Talk is round; a mouth that pops open with a clap rises and falls at once.
            var sharp = jaw[f] - MathF.Max(jaw[f - span], jaw[f + span]);
            (best, sharpest) = sharp > sharpest ? (f, sharp) : (best, sharpest);
        }

        return best < 0 || sharpest < Opens ? null : (best + Vertex(-jaw[best - 1], -jaw[best], -jaw[best + 1])) / rate;
    }

    private static float[]? Channel(FaceTake face, string name)
    {
        var at = face.Names.ToList().IndexOf(name);
        return at < 0 ? null : [.. Enumerable.Range(0, face.FrameCount).Select(f => face.At(f, at) is var v && float.IsFinite(v) ? v : 0)];
    }

    /// <summary>How far the body's own jaw is open, radians; null when it has none that moves.</summary>
    private static float[]? JawOf(Motion body)
    {
        var jaw = body.Skeleton.IndexOf(BodyRole.Jaw);
        return jaw < 0
            ? null
            : [.. Enumerable.Range(0, body.FrameCount).Select(f => Geometry.Rotations.Log(body.RotationsAt(f)[jaw]).Length())];
    }
}
