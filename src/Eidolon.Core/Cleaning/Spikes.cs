using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Cleaning;

/// <summary>Single samples (or a few) that jump off their path and back: a Hampel test on second differences.</summary>
/// <remarks>Hampel 1974; Pearson 2002. The scale is the median absolute deviation within half a second, with a floor of a millimetre.</remarks>
public static class Spikes
{
    /// <summary>A sample off its path.</summary>
    public readonly record struct Spike(int Frame, int Marker, float SizeMetres);

    public static List<Spike> Find(MarkerTake take)
    {
        var found = new List<Spike>();
        var n = take.FrameCount;
        var path = new Vector3[n];
        var bend = new float[n];
        var window = Math.Max(8, (int)(take.FrameRate / 4));
        var scratch = new List<float>(window * 2);
        for (var m = 0; m < take.MarkerCount; m++)
        {
            for (var f = 0; f < n; f++)
            {
                path[f] = take[f, m];
            }

            for (var f = 0; f < n; f++)
            {
                bend[f] = f >= 2 && f < n - 2 ? Off(path, f) : float.NaN;
            }

            for (var f = 2; f < n - 2; f++)
            {
                // A spike stands out against both neighbours' own deviation; quick tests first, medians only for suspects.
                if (float.IsNaN(bend[f]) || bend[f] < 0.004f || bend[f] < bend[f - 1] || bend[f] < bend[f + 1])
                {
                    continue;
                }

                scratch.Clear();
                for (var k = Math.Max(2, f - window); k < Math.Min(n - 2, f + window); k++)
                {
                    if (Math.Abs(k - f) > 2 && !float.IsNaN(bend[k]))
                    {
                        scratch.Add(bend[k]);
                    }
                }

                scratch.Sort();
                var scale = scratch.Count == 0 ? 0.001f : MathF.Max(0.001f, scratch[scratch.Count / 2] * 1.4826f);
                if (bend[f] > 6 * scale)
                {
                    found.Add(new Spike(f, m, bend[f]));
                }
            }
        }

        return found;
    }

    /// <summary>Spikes replaced by a cubic through their neighbours.</summary>
    public static (MarkerTake Take, List<Spike> Removed) Remove(MarkerTake take)
    {
        var spikes = Find(take);
        var result = take.Copy();
        foreach (var s in spikes)
        {
            var (a, b, c, d) = (take[s.Frame - 2, s.Marker], take[s.Frame - 1, s.Marker], take[s.Frame + 1, s.Marker], take[s.Frame + 2, s.Marker]);
            result[s.Frame, s.Marker] = ((b + c) * (2f / 3)) - ((a + d) * (1f / 6));
        }

        return (result, spikes);
    }

    /// <summary>Distance of a sample from the cubic through its two neighbours on either side.</summary>
    private static float Off(ReadOnlySpan<Vector3> p, int f) => (p[f] - (((p[f - 1] + p[f + 1]) * (2f / 3)) - ((p[f - 2] + p[f + 2]) * (1f / 6)))).Length();
}
