namespace Eidolon.Core.Video;

/// <summary>
/// Finds where a tracker took the left leg for the right one: there both legs jump at once, and it puts the points back. The row of decisions with
/// the least jumping wins (dynamic programming over two frames, so that speeds count).
/// </summary>
public static class LegExchange
{
    private static readonly string[] Parts = ["Hip", "Knee", "Ankle", "Heel", "Toe"];

    /// <summary>A jump of this, pixels on a picture 1920 wide at 30 frames a second, is usual.</summary>
    private const double UsualJump = 14;

    /// <summary>What a change of mind costs, and what each exchanged frame costs, so that in doubt the tracker is right.</summary>
    private const double Change = 6,
        Exchanged = 0.04;

    /// <summary>The film with its legs put right, and the ranges that were exchanged, both ends inside.</summary>
    public static (FilmTake Film, List<(int Start, int End)> Ranges) Fix(FilmTake film)
    {
        var states = Decide(film, Pairs(film));
        var ranges = new List<(int Start, int End)>();
        for (var f = 0; f < states.Length; f++)
        {
            if (!states[f])
            {
                continue;
            }

            if (ranges.Count > 0 && ranges[^1].End == f - 1)
            {
                ranges[^1] = (ranges[^1].Start, f);
            }
            else
            {
                ranges.Add((f, f));
            }
        }

        return (PutBack(film, ranges), ranges);
    }

    /// <summary>The film with left and right legs exchanged in some ranges, both ends inside.</summary>
    public static FilmTake PutBack(FilmTake film, IReadOnlyList<(int Start, int End)> ranges)
    {
        if (ranges.Count == 0)
        {
            return film;
        }

        var values = (float[])film.Values.Clone();
        foreach (var (l, r) in Pairs(film))
        {
            foreach (var f in ranges.SelectMany(x => Enumerable.Range(x.Start, x.End - x.Start + 1)).Where(f => f < film.FrameCount))
            {
                int a = ((f * film.Names.Count) + l) * 3,
                    b = ((f * film.Names.Count) + r) * 3;
                for (var k = 0; k < 3; k++)
                {
                    (values[a + k], values[b + k]) = (values[b + k], values[a + k]);
                }
            }
        }

        return new FilmTake(film.FrameRate, film.Names, values) { Warnings = film.Warnings };
    }

    private static (int L, int R)[] Pairs(FilmTake film) =>
        [.. Parts.Select(p => (L: film.IndexOf(p + "L"), R: film.IndexOf(p + "R"))).Where(p => p.L >= 0 && p.R >= 0)];

    private static bool[] Decide(FilmTake film, (int L, int R)[] pairs)
    {
        var n = film.FrameCount;
        var jump = UsualJump * 30 / film.FrameRate;
        // State: whether the frame before and this one are exchanged.
        var cost = new double[] { 0, double.PositiveInfinity, double.PositiveInfinity, Change };
        var back = new int[n, 4];
        for (var f = 1; f < n; f++)
        {
            var next = new double[4];
            Array.Fill(next, double.PositiveInfinity);
            for (var state = 0; state < 4; state++)
            {
                var (older, last) = (state >> 1, state & 1);
                for (var now = 0; now < 2; now++)
                {
                    var c =
                        cost[state]
                        + Jumps(film, pairs, f, older == 1, last == 1, now == 1, jump)
                        + (now == last ? 0 : Change)
                        + (now * Exchanged);
                    var to = (last << 1) | now;
                    if (c < next[to])
                    {
                        (next[to], back[f, to]) = (c, state);
                    }
                }
            }

            cost = next;
        }

        var result = new bool[n];
        var at = Array.IndexOf(cost, cost.Min());
        for (var f = n - 1; f >= 0; f--)
        {
            result[f] = (at & 1) == 1;
            at = f > 0 ? back[f, at] : at;
        }

        return result;
    }

    /// <summary>How far both legs are from where they were going; robust, in units of what is usual.</summary>
    private static double Jumps(FilmTake film, (int L, int R)[] pairs, int f, bool older, bool last, bool now, double usual)
    {
        double sum = 0;
        foreach (var pair in pairs)
        {
            foreach (var left in new[] { true, false })
            {
                int Point(bool exchanged) => left != exchanged ? pair.L : pair.R;
                var (a, b) = (film.At(f, Point(now)), film.At(f - 1, Point(last)));
                if (a.Confidence <= 0 || b.Confidence <= 0)
                {
                    continue;
                }

                var c = f > 1 ? film.At(f - 2, Point(older)) : default;
                var (u, v) = c.Confidence > 0 ? ((2 * b.U) - c.U, (2 * b.V) - c.V) : (b.U, b.V);
                var (du, dv) = ((a.U - u) / usual, (a.V - v) / usual);
                var sure = Math.Min(a.Confidence, b.Confidence);
                sum += sure * Math.Log(1 + (0.5 * ((du * du) + (dv * dv))));
            }
        }

        return sum;
    }
}
