using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;

namespace Eidolon.StandIns.Truth;

/// <summary>What is hidden together.</summary>
public enum GapKind
{
    /// <summary>One marker.</summary>
    One,

    /// <summary>A marker and its two nearest.</summary>
    Three,

    /// <summary>Every marker of one arm, from the shoulder down.</summary>
    Arm,
}

/// <summary>A hidden stretch of one marker.</summary>
public readonly record struct Hole(int Marker, Gap Gap);

/// <summary>Gaps cut into a take whose truth is known, and what a method puts into them.</summary>
/// <param name="Squares">Summed squares of what the samples are off, metres².</param>
/// <param name="Samples">Samples that were filled.</param>
/// <param name="Unsaid">Of the gaps, how many were filled without an expected error.</param>
/// <param name="Open">Gaps that stayed open.</param>
/// <param name="Gaps">Gaps that were cut.</param>
/// <param name="Worst">RMS of the worst gap, metres.</param>
/// <param name="Under">Gaps that ended more than three times as far off as was expected, and more than 5 mm.</param>
public readonly record struct GapScore(double Squares, long Samples, int Unsaid, int Open, int Gaps, double Worst, int Under)
{
    /// <summary>RMS over all filled samples, millimetres.</summary>
    public double Millimetres => Samples == 0 ? 0 : Math.Sqrt(Squares / Samples) * 1000;

    public static GapScore operator +(GapScore a, GapScore b) =>
        new(
            a.Squares + b.Squares,
            a.Samples + b.Samples,
            a.Unsaid + b.Unsaid,
            a.Open + b.Open,
            a.Gaps + b.Gaps,
            Math.Max(a.Worst, b.Worst),
            a.Under + b.Under
        );

    /// <summary>Cuts up to so many gaps (or groups of gaps) of a length; no marker is hidden twice.</summary>
    /// <param name="set">Which markers are an arm's.</param>
    public static (MarkerTake Take, List<Hole> Holes) Cut(MarkerTake truth, MarkerSet set, GapKind kind, int frames, int most, int seed)
    {
        var random = new Random(seed);
        var take = truth.Copy();
        var holes = new List<Hole>();
        var groups = 0;
        for (var k = 0; k < 400 && groups < most; k++)
        {
            var (m, start) = (random.Next(take.MarkerCount), random.Next(10, Math.Max(11, take.FrameCount - frames - 10)));
            var gap = new Gap(start, start + frames - 1);
            var group = Group(truth, set, kind, m, start);
            if (
                gap.End + 6 >= take.FrameCount
                || group.Length == 0
                || group.Any(g => !Seen(truth, g, start - 3, gap.End + 3))
                // The same arm twice is wanted at other times; the same samples are not.
                || holes.Exists(h =>
                    Array.IndexOf(group, h.Marker) >= 0 && h.Gap.Start <= gap.End + (2 * frames) && gap.Start <= h.Gap.End + (2 * frames)
                )
            )
            {
                continue;
            }

            groups++;
            foreach (var g in group)
            {
                holes.Add(new Hole(g, gap));
                for (var f = gap.Start; f <= gap.End; f++)
                {
                    take[f, g] = MarkerTake.Hidden;
                }
            }
        }

        return (take, holes);
    }

    public static GapScore Of(MarkerTake truth, MarkerTake filled, IReadOnlyList<FilledGap> list, IReadOnlyList<Hole> holes)
    {
        var said = list.ToDictionary(f => (f.Marker, f.Gap), f => f.ExpectedError);
        var score = default(GapScore);
        foreach (var hole in holes)
        {
            if (!said.TryGetValue((hole.Marker, hole.Gap), out var expected))
            {
                score += new GapScore(0, 0, 0, 1, 1, 0, 0);
                continue;
            }

            double sum = 0;
            for (var f = hole.Gap.Start; f <= hole.Gap.End; f++)
            {
                sum += (filled[f, hole.Marker] - truth[f, hole.Marker]).LengthSquared();
            }

            var rms = Math.Sqrt(sum / hole.Gap.Length);
            score += new GapScore(
                sum,
                hole.Gap.Length,
                double.IsNaN(expected) ? 1 : 0,
                0,
                1,
                rms,
                rms > Math.Max(0.005, 3 * expected) ? 1 : 0
            );
        }

        return score;
    }

    private static int[] Group(MarkerTake take, MarkerSet set, GapKind kind, int marker, int frame)
    {
        if (kind == GapKind.One)
        {
            return [marker];
        }

        var all = Enumerable.Range(0, take.MarkerCount);
        if (kind == GapKind.Three)
        {
            var at = take[frame, marker];
            return MarkerTake.Seen(at)
                ? [.. all.Where(m => MarkerTake.Seen(take[frame, m])).OrderBy(m => Vector3.DistanceSquared(take[frame, m], at)).Take(3)]
                : [];
        }

        string? Segment(int m) => set.Find(MarkerNames.Split(take.Names[m]).Marker)?.Segment.ToString();
        bool Arm(int m, char side) =>
            Segment(m) is { } s && s[^1] == side && (s.StartsWith("UpperArm") || s.StartsWith("Forearm") || s.StartsWith("Hand"));
        return Segment(marker) is { } own && Arm(marker, own[^1]) ? [.. all.Where(m => Arm(m, own[^1]))] : [];
    }

    private static bool Seen(MarkerTake take, int marker, int from, int to)
    {
        for (var f = from; f <= to; f++)
        {
            if (f < 0 || f >= take.FrameCount || !MarkerTake.Seen(take[f, marker]))
            {
                return false;
            }
        }

        return true;
    }
}
