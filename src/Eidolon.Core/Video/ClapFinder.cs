using System.Numerics;

namespace Eidolon.Core.Video;

/// <summary>
/// Lines a film up with a take by a clap: the sharpest rise of the sound, and the moment at which two fast wrists meet and stop.
/// </summary>
public static class ClapFinder
{
    /// <summary>Second of the sharpest onset in a loudness curve, or null when nothing stands out.</summary>
    /// <param name="loudness">RMS of the sound, evenly spaced.</param>
    /// <param name="rate">Values a second.</param>
    /// <remarks>Onset by energy ratio; Bello et al., "A Tutorial on Onset Detection", 2005.</remarks>
    public static double? InSound(ReadOnlySpan<float> loudness, double rate)
    {
        if (loudness.Length < 8 || !(rate > 0))
        {
            return null;
        }

        var most = 0f;
        foreach (var v in loudness)
        {
            most = MathF.Max(most, v);
        }

        var best = -1;
        var rise = 0f;
        var window = Math.Max(2, (int)(rate * 0.05));
        for (var i = window; i < loudness.Length; i++)
        {
            var before = 0f;
            for (var k = 1; k <= window; k++)
            {
                before = MathF.Max(before, loudness[i - k]);
            }

            var r = loudness[i] - before;
            if (r > rise)
            {
                (best, rise) = (i, r);
            }
        }

        return best >= 0 && rise > 0.35f * most && most > 1e-5f ? best / rate : null;
    }

    /// <summary>Second at which the two wrists meet fastest and stop, or null when they never do.</summary>
    /// <param name="left">One place a frame, metres; NaN where it is not seen.</param>
    public static double? InMotion(IReadOnlyList<Vector3> left, IReadOnlyList<Vector3> right, double rate)
    {
        var n = Math.Min(left.Count, right.Count);
        var span = Math.Max(2, (int)(rate * 0.04));
        double best = 0;
        var at = -1;
        for (var f = span; f < n - span; f++)
        {
            var here = Vector3.Distance(left[f], right[f]);
            var closing = (Vector3.Distance(left[f - span], right[f - span]) - here) * rate / span;
            var after = Math.Abs(Vector3.Distance(left[f + span], right[f + span]) - here) * rate / span;
            var stop = closing - (2 * after);
            // Hands are together when their wrists are less than a quarter of a metre apart.
            if (float.IsFinite(here) && here < 0.25f && closing > 0.8 && stop > best)
            {
                (best, at) = (stop, f);
            }
        }

        return at < 0 ? null : at / rate;
    }
}
