using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Cleaning;

/// <summary>
/// Fills gaps between seen samples. Auto tries every method on artificial gaps of the same length where the truth is seen, takes the one
/// that came nearest, and says how near. Gaps at the ends of a take and those beyond the limits stay open.
/// </summary>
public static class GapFiller
{
    /// <summary>Up to here nothing moves far from a cubic, seconds.</summary>
    private const double Blink = 0.04;

    private const int Trials = 4;

    private static readonly FillMethod[] All =
    [
        FillMethod.Spline,
        FillMethod.Rigid,
        FillMethod.Correlation,
        FillMethod.Cycle,
        FillMethod.Skeleton,
    ];

    /// <param name="set">Tells which markers share a segment; without it, mates are found by their steady distance.</param>
    public static (MarkerTake Take, List<FilledGap> Filled) Fill(
        MarkerTake take,
        MarkerSet? set,
        FillOptions options,
        CancellationToken cancel = default,
        IProgress<double>? progress = null
    )
    {
        var result = take.Copy();
        var filled = new List<FilledGap>[take.MarkerCount];
        var mates = new Mates(take, set);
        var done = 0;
        Parallel.For(0, take.MarkerCount, new ParallelOptions { CancellationToken = cancel }, m =>
        {
            filled[m] = [];
            if (options.Marker is null || take.Names[m] == options.Marker)
            {
                var gaps = take.Gaps(m)
                    .Where(g =>
                        g.Start > 0
                        && g.End < take.FrameCount - 1
                        && g.Length <= options.Longest
                        && (options.Frame is not { } at || (g.Start <= at && at <= g.End))
                    )
                    .ToList();
                var company = gaps.Count == 0 ? [] : mates.Of(m);
                foreach (var gap in gaps)
                {
                    cancel.ThrowIfCancellationRequested();
                    if (One(take, m, gap, company, options) is { } fill)
                    {
                        fill.Values.CopyTo(result, gap, m);
                        filled[m].Add(new FilledGap(m, gap, fill.Method, fill.Expected));
                    }
                }
            }

            progress?.Report(Interlocked.Increment(ref done) / (double)take.MarkerCount);
        });
        return (result, [.. filled.SelectMany(f => f)]);
    }

    /// <summary>What would be put into one gap, and what every method would be off; nothing is changed.</summary>
    public static IReadOnlyList<(FillMethod Method, Vector3[] Values, double Expected)> Proposals(
        MarkerTake take,
        MarkerSet? set,
        int marker,
        Gap gap,
        MarkerTake? model = null
    )
    {
        var company = new Mates(take, set).Of(marker);
        return
        [
            .. All.Select(m =>
                    (Method: m, Values: Try(take, marker, gap, company, m, model), Expected: Expected(take, marker, gap, company, m, model))
                )
                .Where(x => x.Values is not null)
                .Select(x => (x.Method, x.Values!, x.Expected))
                .OrderBy(x => double.IsNaN(x.Expected) ? double.PositiveInfinity : x.Expected),
        ];
    }

    private static (FillMethod Method, Vector3[] Values, double Expected)? One(
        MarkerTake take,
        int marker,
        Gap gap,
        (int Marker, bool Rigid)[] company,
        FillOptions options
    )
    {
        var methods =
            options.Method != FillMethod.Auto ? [options.Method]
            : gap.Length <= Blink * take.FrameRate ? [FillMethod.Spline]
            : All;
        (FillMethod Method, Vector3[] Values, double Expected)? best = null;
        foreach (var method in methods)
        {
            if (Try(take, marker, gap, company, method, options.Model) is not { } values)
            {
                continue;
            }

            var expected = Expected(take, marker, gap, company, method, options.Model);
            if (best is null || Order(method, expected) < Order(best.Value.Method, best.Value.Expected))
            {
                best = (method, values, expected);
            }
        }

        // What was asked for by name and cannot be done is done by a curve, and said so.
        if (best is null && options.Method is not (FillMethod.Auto or FillMethod.Spline))
        {
            best = (FillMethod.Spline, CurveFill.Fill(take, marker, gap), Expected(take, marker, gap, company, FillMethod.Spline, null));
        }

        var limit = options.WorstError;
        return best is { } b && (double.IsPositiveInfinity(limit) || b.Expected <= limit) ? b : null;
    }

    /// <summary>Methods by what they are expected to be off; where nothing could be compared, mates are believed before a curve.</summary>
    private static double Order(FillMethod method, double expected) =>
        double.IsNaN(expected)
            ? 1e6
                + (
                    method switch
                    {
                        FillMethod.Skeleton => 0,
                        FillMethod.Rigid => 1,
                        FillMethod.Correlation => 2,
                        FillMethod.Cycle => 3,
                        _ => 4,
                    }
                )
            : expected;

    private static Vector3[]? Try(
        MarkerTake take,
        int marker,
        Gap gap,
        (int Marker, bool Rigid)[] company,
        FillMethod method,
        MarkerTake? model
    )
    {
        if (method is FillMethod.Spline or FillMethod.Skeleton)
        {
            return method == FillMethod.Spline ? CurveFill.Fill(take, marker, gap) : SkeletonFill.Fill(take, marker, gap, model);
        }

        var there = company
            .Where(c => (method != FillMethod.Rigid || c.Rigid) && Throughout(take, c.Marker, gap))
            .Select(c => c.Marker)
            .Take(14)
            .ToArray();
        return method switch
        {
            FillMethod.Rigid => RigidFill.Fill(take, marker, gap, there),
            FillMethod.Correlation => CorrelationFill.Fill(take, marker, gap, there),
            _ => CycleFill.Fill(take, marker, gap, there),
        };
    }

    private static bool Throughout(MarkerTake take, int marker, Gap gap)
    {
        for (var f = gap.Start - 1; f <= gap.End + 1; f++)
        {
            if (!MarkerTake.Seen(take[f, marker]))
            {
                return false;
            }
        }

        return true;
    }

    /// <summary>
    /// RMS error on equally long stretches nearby in which the marker is seen and everything else is as in the gap, metres; NaN when there is
    /// none.
    /// </summary>
    private static double Expected(
        MarkerTake take,
        int marker,
        Gap gap,
        (int Marker, bool Rigid)[] company,
        FillMethod method,
        MarkerTake? model
    )
    {
        // The trials see the same company as the gap itself.
        var present = company.Where(c => Throughout(take, c.Marker, gap)).ToArray();
        double sum = 0;
        var (n, trials) = (0, 0);
        for (var k = 1; k <= 8 && trials < Trials; k++)
        {
            foreach (var side in new[] { -1, 1 })
            {
                var shift = side * ((k * gap.Length) + (4 * k));
                var g = new Gap(gap.Start + shift, gap.End + shift);
                if (
                    trials >= Trials
                    || g.Start < 2
                    || g.End > take.FrameCount - 3
                    || !Throughout(take, marker, g)
                    || !present.Take(4).All(c => Throughout(take, c.Marker, g))
                )
                {
                    continue;
                }

                if (Try(take, marker, g, present, method, model) is not { } values)
                {
                    continue;
                }

                trials++;
                for (var i = 0; i < g.Length; i++)
                {
                    sum += (values[i] - take[g.Start + i, marker]).LengthSquared();
                    n++;
                }
            }
        }

        return n == 0 ? double.NaN : Math.Sqrt(sum / n);
    }

    private static void CopyTo(this Vector3[] values, MarkerTake take, Gap gap, int marker)
    {
        for (var k = 0; k < values.Length; k++)
        {
            take[gap.Start + k, marker] = values[k];
        }
    }
}
