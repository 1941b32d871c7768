using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Cleaning;

/// <summary>Single samples (or up to three) that jump off their path and back: a Hampel test on the distance from the path around them.</summary>
/// <remarks>
/// Hampel 1974; Pearson 2002. The path is the cubic through two good samples on either side; the scale is the median absolute deviation within a
/// quarter of a second, with a floor. Fast moves bend too, but they take their neighbours along: a stretch is a spike only when leaving and coming back are both jumps.
/// </remarks>
public static class Spikes
{
    /// <summary>Longest run of bad samples.</summary>
    private const int Longest = 3;

    /// <summary>Less than this is noise, metres.</summary>
    private const float Least = 0.004f;

    private const float Times = 6;

    /// <summary>A sample off its path.</summary>
    public readonly record struct Spike(int Frame, int Marker, float SizeMetres);

    public static List<Spike> Find(MarkerTake take)
    {
        var found = new List<Spike>();
        var path = new Vector3[take.FrameCount];
        for (var m = 0; m < take.MarkerCount; m++)
        {
            for (var f = 0; f < path.Length; f++)
            {
                path[f] = take[f, m];
            }

            Find(path, m, take.FrameRate, found);
        }

        return found;
    }

    /// <summary>Spikes replaced by the cubic through their neighbours.</summary>
    /// <param name="which">Only these; all when it is not given.</param>
    public static (MarkerTake Take, List<Spike> Removed) Remove(MarkerTake take, Func<Spike, bool>? which = null)
    {
        var spikes = Find(take).Where(s => which is null || which(s)).ToList();
        var result = take.Copy();
        for (var i = 0; i < spikes.Count; )
        {
            var n = 1;
            while (i + n < spikes.Count && spikes[i + n].Marker == spikes[i].Marker && spikes[i + n].Frame == spikes[i].Frame + n)
            {
                n++;
            }

            for (var k = 0; k < n; k++)
            {
                result[spikes[i].Frame + k, spikes[i].Marker] = Between(take, spikes[i].Marker, spikes[i].Frame, n, k);
            }

            i += n;
        }

        return (result, spikes);
    }

    private static Vector3 Between(MarkerTake take, int m, int start, int length, int k)
    {
        Vector3 At(int f) => take[f, m];
        return Cubic(At(start - 2), At(start - 1), At(start + length), At(start + length + 1), length, k);
    }

    private static void Find(Vector3[] path, int marker, double rate, List<Spike> found)
    {
        var n = path.Length;
        var window = Math.Max(10, (int)(rate / 4));
        var bend = new float[n];
        for (var f = 0; f < n; f++)
        {
            bend[f] =
                f >= 2 && f < n - 2 ? (path[f] - Cubic(path[f - 2], path[f - 1], path[f + 1], path[f + 2], 1, 0)).Length() : float.NaN;
        }

        var scratch = new List<float>(window * 2);
        for (var f = 2; f < n - 2; f++)
        {
            if (!(bend[f] > Least) && !(f + 1 < n && bend[f + 1] > Least))
            {
                continue;
            }

            var limit = float.NaN;
            for (var length = 1; length <= Longest && f + length + 1 < n; length++)
            {
                if (
                    !MarkerTake.Seen(path[f - 2])
                    || !MarkerTake.Seen(path[f - 1])
                    || !MarkerTake.Seen(path[f + length])
                    || !MarkerTake.Seen(path[f + length + 1])
                )
                {
                    continue;
                }

                if (float.IsNaN(limit))
                {
                    limit = MathF.Max(Least, Times * Scale(bend, f, window, scratch));
                }

                if (Leaves(path, f, length, limit))
                {
                    for (var k = 0; k < length; k++)
                    {
                        found.Add(
                            new Spike(
                                f + k,
                                marker,
                                (path[f + k] - Cubic(path[f - 2], path[f - 1], path[f + length], path[f + length + 1], length, k)).Length()
                            )
                        );
                    }

                    f += length;
                    break;
                }
            }
        }
    }

    /// <summary>Every sample of the run is off the path around it, and both its edges are jumps that the path on either side does not make.</summary>
    private static bool Leaves(Vector3[] p, int f, int length, float limit)
    {
        for (var k = 0; k < length; k++)
        {
            if (!((p[f + k] - Cubic(p[f - 2], p[f - 1], p[f + length], p[f + length + 1], length, k)).Length() > limit))
            {
                return false;
            }
        }

        // Without the run the path must be calm: what goes over the gap agrees with what comes before and after.
        var (before, after) = (p[f - 1] - p[f - 2], p[f + length + 1] - p[f + length]);
        var across = (p[f + length] - p[f - 1]) / (length + 1);
        var rough = MathF.Max((across - before).Length(), (across - after).Length());
        var off = MathF.Min((p[f] - p[f - 1] - across).Length(), (p[f + length] - p[f + length - 1] - across).Length());
        return off > 2.2f * rough && off > limit * 0.8f;
    }

    private static float Scale(float[] bend, int f, int window, List<float> scratch)
    {
        scratch.Clear();
        for (var k = Math.Max(2, f - window); k < Math.Min(bend.Length - 2, f + window); k++)
        {
            if (Math.Abs(k - f) > 4 && !float.IsNaN(bend[k]))
            {
                scratch.Add(bend[k]);
            }
        }

        scratch.Sort();
        return scratch.Count == 0 ? 0.0005f : scratch[scratch.Count / 2] * 1.4826f;
    }

    /// <summary>The cubic through two samples on either side of a run of so many, at its k-th sample.</summary>
    private static Vector3 Cubic(Vector3 a, Vector3 b, Vector3 c, Vector3 d, int length, int k)
    {
        // Nodes at −2, −1, length, length + 1; Lagrange.
        float x = k,
            x0 = -2,
            x1 = -1,
            x2 = length,
            x3 = length + 1;
        var w0 = (x - x1) * (x - x2) * (x - x3) / ((x0 - x1) * (x0 - x2) * (x0 - x3));
        var w1 = (x - x0) * (x - x2) * (x - x3) / ((x1 - x0) * (x1 - x2) * (x1 - x3));
        var w2 = (x - x0) * (x - x1) * (x - x3) / ((x2 - x0) * (x2 - x1) * (x2 - x3));
        var w3 = (x - x0) * (x - x1) * (x - x2) / ((x3 - x0) * (x3 - x1) * (x3 - x2));
        return (a * w0) + (b * w1) + (c * w2) + (d * w3);
    }
}
