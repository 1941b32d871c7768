using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;

namespace Eidolon.StandIns.Truth;

/// <summary>Spikes put into a take, and what became of them.</summary>
/// <param name="Put">Samples that were moved.</param>
/// <param name="Out">Of those, taken out.</param>
/// <param name="Touched">Good samples that were taken for spikes.</param>
/// <param name="Good">Samples that were seen and left alone.</param>
/// <param name="Left">How far the moved samples are from the truth afterwards, together, metres.</param>
public readonly record struct SpikeScore(int Put, int Out, long Touched, long Good, double Left)
{
    /// <summary>No two runs of one marker come nearer than this, frames.</summary>
    private const int Apart = 10;

    public static SpikeScore operator +(SpikeScore a, SpikeScore b) =>
        new(a.Put + b.Put, a.Out + b.Out, a.Touched + b.Touched, a.Good + b.Good, a.Left + b.Left);

    /// <summary>Runs of one to so many samples jump by 15 to 70 mm, in any direction, and are looked for.</summary>
    public static SpikeScore Try(MarkerTake truth, int runs, int longest, int seed)
    {
        var take = truth.Copy();
        var random = new Random(seed);
        var put = new HashSet<(int Frame, int Marker)>();
        for (var k = 0; k < runs; k++)
        {
            var (f, m, n) = (random.Next(10, take.FrameCount - 12), random.Next(take.MarkerCount), random.Next(1, longest + 1));
            if (
                put.Any(p => p.Marker == m && Math.Abs(p.Frame - f) < Apart)
                || Enumerable.Range(f - 3, n + 6).Any(i => !MarkerTake.Seen(take[i, m]))
            )
            {
                continue;
            }

            var off =
                Vector3.Normalize(new Vector3(random.NextSingle() - 0.5f, random.NextSingle() - 0.5f, random.NextSingle() - 0.5f))
                * (0.015f + (random.NextSingle() * 0.055f));
            for (var i = 0; i < n; i++)
            {
                take[f + i, m] += off * (0.8f + (0.4f * random.NextSingle()));
                put.Add((f + i, m));
            }
        }

        var (clean, removed) = Spikes.Remove(take);
        var gone = removed.Select(s => (s.Frame, s.Marker)).ToHashSet();
        return new SpikeScore(
            put.Count,
            put.Count(gone.Contains),
            gone.Count(g => !put.Contains(g)),
            take.Positions.Count(MarkerTake.Seen) - put.Count,
            put.Sum(p => (clean[p.Frame, p.Marker] - truth[p.Frame, p.Marker]).Length())
        );
    }
}
