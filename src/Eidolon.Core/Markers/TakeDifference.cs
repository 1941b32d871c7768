using System.Numerics;
using System.Runtime.InteropServices;

namespace Eidolon.Core.Markers;

/// <summary>How one state of a take becomes another of the same length: which column each new one comes from, and the frames in which it differs.</summary>
/// <param name="Sources">For each column after, the column before; −1 where there was none.</param>
/// <param name="Runs">Column after, first frame, frames.</param>
public sealed record TakeDifference(int[] Sources, IReadOnlyList<(int Column, int Start, int Length)> Runs)
{
    /// <summary>Runs closer than this are one: a few equal samples cost less than another run.</summary>
    private const int Near = 16;

    /// <exception cref="ArgumentException">The two have different lengths.</exception>
    public static TakeDifference Between(MarkerTake before, MarkerTake after)
    {
        if (before.FrameCount != after.FrameCount)
        {
            throw new ArgumentException("states of different lengths have no difference frame by frame");
        }

        var sources = Match(before, after);
        var runs = new List<(int, int, int)>();
        if (ReferenceEquals(before.Positions, after.Positions))
        {
            return new TakeDifference(sources, runs);
        }

        var (first, last) = (new int[after.MarkerCount], new int[after.MarkerCount]);
        Array.Fill(first, -1);
        // Most columns of most edits stay where they are: their part of a row is compared at once.
        var head = 0;
        while (head < sources.Length && sources[head] == head)
        {
            head++;
        }

        for (var f = 0; f < after.FrameCount; f++)
        {
            var a = before.At(f);
            var b = after.At(f);
            var untouched = MemoryMarshal.AsBytes(a[..head]).SequenceEqual(MemoryMarshal.AsBytes(b[..head]));
            for (var m = untouched ? head : 0; m < b.Length; m++)
            {
                if (sources[m] >= 0 ? Equal(a[sources[m]], b[m]) : !MarkerTake.Seen(b[m]))
                {
                    continue;
                }

                if (first[m] >= 0 && f - last[m] > Near)
                {
                    runs.Add((m, first[m], last[m] - first[m] + 1));
                    first[m] = -1;
                }

                first[m] = first[m] < 0 ? f : first[m];
                last[m] = f;
            }
        }

        for (var m = 0; m < first.Length; m++)
        {
            if (first[m] >= 0)
            {
                runs.Add((m, first[m], last[m] - first[m] + 1));
            }
        }

        return new TakeDifference(sources, runs);
    }

    /// <summary>Columns by name; a new name comes from the vanished column whose samples it shares most of.</summary>
    private static int[] Match(MarkerTake before, MarkerTake after)
    {
        var known = before.Names.Select((n, i) => (n, i)).ToDictionary(x => x.n, x => x.i, StringComparer.Ordinal);
        var sources = after.Names.Select(n => known.GetValueOrDefault(n, -1)).ToArray();
        var gone = Enumerable.Range(0, before.MarkerCount).Except(sources).ToList();
        for (var m = 0; m < sources.Length && gone.Count > 0; m++)
        {
            if (sources[m] >= 0)
            {
                continue;
            }

            var (best, shared) = (-1, 0);
            foreach (var g in gone)
            {
                var n = 0;
                for (var k = 0; k < 64; k++)
                {
                    var f = (int)((long)k * (after.FrameCount - 1) / 63);
                    n += MarkerTake.Seen(after[f, m]) && Equal(before[f, g], after[f, m]) ? 1 : 0;
                }

                (best, shared) = n > shared ? (g, n) : (best, shared);
            }

            if (best >= 0)
            {
                sources[m] = best;
                gone.Remove(best);
            }
        }

        return sources;
    }

    /// <summary>Equal to the bit: two hidden samples are equal.</summary>
    private static bool Equal(Vector3 a, Vector3 b) => (!MarkerTake.Seen(a) && !MarkerTake.Seen(b)) || a == b;
}
