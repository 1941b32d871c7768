using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Cleaning;

/// <summary>
/// Fills gaps between seen samples. Auto tries every method on artificial gaps of the same length where the truth is seen, takes the one
/// that came nearest, and says how near. Those beyond the limits stay open. Gaps at the ends of a take and markers that are never seen have nothing on
/// their other side to go to: only the skeleton carries them, and only when it is asked to.
/// </summary>
public static class GapFiller
{
    /// <summary>Up to here nothing moves far from a cubic, seconds.</summary>
    private const double Blink = 0.04;

    /// <summary>The skeleton is asked where nothing else is expected nearer than this, metres.</summary>
    private const double Doubtful = 0.002;

    /// <summary>Where a whole limb is hidden its lengths are worth this: the skeleton is taken unless another is that much nearer.</summary>
    private const double Together = 0.7;

    /// <summary>Where mates of the same bone are seen, the skeleton must be nearer by so much: it knows the bone, they know the skin.</summary>
    private const double Beside = 1.2;

    private static readonly FillMethod[] Usual = [FillMethod.Spline, FillMethod.Rigid, FillMethod.Correlation, FillMethod.Cycle];

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
                        (g.HasTwoEnds(take.FrameCount) ? g.Length <= options.Longest : options.Ends)
                        && (options.Frame is not { } at || (g.Start <= at && at <= g.End))
                    )
                    .ToList();
                var company = gaps.Count == 0 ? [] : mates.Of(m);
                foreach (var gap in gaps)
                {
                    cancel.ThrowIfCancellationRequested();
                    if (One(new OpenGap(take, m, gap, company, options.Skeleton), options) is { } fill)
                    {
                        for (var k = 0; k < gap.Length; k++)
                        {
                            result[gap.Start + k, m] = fill.Values[k];
                        }

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
        Lazy<SkeletonCarrier>? skeleton = null
    )
    {
        var open = new OpenGap(take, marker, gap, new Mates(take, set).Of(marker), skeleton);
        return
        [
            .. (open.HasTwoEnds ? Usual : [])
                .Append(FillMethod.Skeleton)
                .Select(m => (Method: m, Values: open.Try(m), Expected: open.Expected(m)))
                .Where(x => x.Values is not null)
                .Select(x => (x.Method, x.Values!, x.Expected))
                .OrderBy(x => Order(x.Method, x.Expected)),
        ];
    }

    private static (FillMethod Method, Vector3[] Values, double Expected)? One(OpenGap gap, FillOptions options)
    {
        (FillMethod Method, Vector3[] Values, double Expected)? best = null;
        void Consider(FillMethod method)
        {
            if (gap.Try(method) is not { } values)
            {
                return;
            }

            var expected = gap.Expected(method);
            var together =
                method != FillMethod.Skeleton ? 1
                : gap.Alone ? Together
                : Beside;
            if (best is null || Order(method, expected * together) < Order(best.Value.Method, best.Value.Expected))
            {
                best = (method, values, expected);
            }
        }

        if (!gap.HasTwoEnds)
        {
            Consider(FillMethod.Skeleton);
        }
        else if (options.Method != FillMethod.Auto)
        {
            Consider(options.Method);
            // What was asked for by name and cannot be done is done by a curve, and said so.
            if (best is null)
            {
                Consider(FillMethod.Spline);
            }
        }
        else if (gap.Seconds <= Blink)
        {
            Consider(FillMethod.Spline);
        }
        else
        {
            Array.ForEach(Usual, Consider);
            if (best is not { } usual || !(usual.Expected <= Doubtful))
            {
                Consider(FillMethod.Skeleton);
            }
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
}
