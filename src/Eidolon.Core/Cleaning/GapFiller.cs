using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Cleaning;

/// <summary>Fills gaps between seen samples. Gaps at the ends of a take and longer ones than allowed stay open.</summary>
public static class GapFiller
{
    /// <param name="set">Tells which markers share a segment; without it, mates are found by their steady distance.</param>
    /// <param name="only">Fill only this marker, or all when null.</param>
    public static (MarkerTake Take, List<FilledGap> Filled) Fill(MarkerTake take, MarkerSet? set, FillMethod method, int longest, string? only = null, int? atFrame = null, CancellationToken cancel = default, IProgress<double>? progress = null)
    {
        var result = take.Copy();
        var filled = new List<FilledGap>();
        for (var m = 0; m < take.MarkerCount; m++)
        {
            cancel.ThrowIfCancellationRequested();
            progress?.Report(m / (double)take.MarkerCount);
            if (only is not null && take.Names[m] != only)
            {
                continue;
            }

            var gaps = take.Gaps(m).Where(g => g.Start > 0 && g.End < take.FrameCount - 1 && g.Length <= longest && (atFrame is not { } at || (g.Start <= at && at <= g.End))).ToList();
            if (gaps.Count == 0)
            {
                continue;
            }

            var mates = Mates(take, set, m);
            foreach (var gap in gaps)
            {
                filled.Add(FillOne(take, result, m, gap, mates, method));
            }
        }

        return (result, filled);
    }

    private static FilledGap FillOne(MarkerTake take, MarkerTake result, int marker, Gap gap, int[] mates, FillMethod method)
    {
        var rigid = method == FillMethod.Spline ? null : Rigid(take, marker, gap, mates);
        var bySpline = method == FillMethod.Rigid && rigid is not null ? double.NaN : Trial(take, marker, gap, g => Spline(take, marker, g));
        var byMates = rigid is null ? double.NaN : Trial(take, marker, gap, g => Rigid(take, marker, g, mates));
        // A comparison that was not possible on one side does not decide against mates that are there.
        var mateWins = rigid is not null && (method == FillMethod.Rigid || double.IsNaN(byMates) || double.IsNaN(bySpline) || byMates <= bySpline);
        var chosen = mateWins ? FillMethod.Rigid : FillMethod.Spline;
        var expected = mateWins ? byMates : bySpline;
        var values = chosen == FillMethod.Rigid ? rigid! : Spline(take, marker, gap);
        for (var k = 0; k < gap.Length; k++)
        {
            result[gap.Start + k, marker] = values[k];
        }

        return new FilledGap(marker, gap, chosen, expected);
    }

    /// <summary>RMS error of a method on an equally long stretch just before or after, where the truth is seen.</summary>
    private static double Trial(MarkerTake take, int marker, Gap gap, Func<Gap, Vector3[]?> fill)
    {
        double sum = 0;
        var n = 0;
        foreach (var shift in new[] { -gap.Length - 4, gap.Length + 4 })
        {
            var g = new Gap(gap.Start + shift, gap.End + shift);
            if (g.Start < 2 || g.End > take.FrameCount - 3 || Enumerable.Range(g.Start - 1, g.Length + 2).Any(f => !MarkerTake.Seen(take[f, marker])) || fill(g) is not { } values)
            {
                continue;
            }

            for (var k = 0; k < g.Length; k++)
            {
                sum += (values[k] - take[g.Start + k, marker]).LengthSquared();
                n++;
            }
        }

        return n == 0 ? double.NaN : Math.Sqrt(sum / n);
    }

    /// <summary>A cubic with the slopes at both ends.</summary>
    internal static Vector3[] Spline(MarkerTake take, int marker, Gap gap)
    {
        int a = gap.Start - 1, b = gap.End + 1;
        var length = b - a;
        Vector3 pa = take[a, marker], pb = take[b, marker];
        var ma = Slope(take, marker, a, -1) * length;
        var mb = Slope(take, marker, b, 1) * length;
        var values = new Vector3[gap.Length];
        for (var k = 0; k < values.Length; k++)
        {
            var t = (k + 1) / (float)length;
            values[k] = new Vector3(CubicSpline.Hermite(pa.X, ma.X, pb.X, mb.X, t), CubicSpline.Hermite(pa.Y, ma.Y, pb.Y, mb.Y, t), CubicSpline.Hermite(pa.Z, ma.Z, pb.Z, mb.Z, t));
        }

        return values;
    }

    /// <summary>Change a frame at the edge of a gap, over up to four seen frames.</summary>
    private static Vector3 Slope(MarkerTake take, int marker, int frame, int direction)
    {
        var far = frame;
        while (Math.Abs(far - frame) < 4 && far + direction >= 0 && far + direction < take.FrameCount && MarkerTake.Seen(take[far + direction, marker]))
        {
            far += direction;
        }

        return far == frame ? Vector3.Zero : (take[far, marker] - take[frame, marker]) / (far - frame);
    }

    /// <summary>The marker carried by its mates: fitted at both ends, blended across. Null when fewer than three mates are seen throughout.</summary>
    private static Vector3[]? Rigid(MarkerTake take, int marker, Gap gap, int[] mates)
    {
        int a = gap.Start - 1, b = gap.End + 1;
        var good = mates.Where(m => Enumerable.Range(a, b - a + 1).All(f => MarkerTake.Seen(take[f, m]))).Take(4).ToArray();
        if (good.Length < 3 || !MarkerTake.Seen(take[a, marker]) || !MarkerTake.Seen(take[b, marker]))
        {
            return null;
        }

        var atA = Array.ConvertAll(good, m => take[a, m]);
        var atB = Array.ConvertAll(good, m => take[b, m]);
        var now = new Vector3[good.Length];
        var values = new Vector3[gap.Length];
        for (var k = 0; k < values.Length; k++)
        {
            for (var i = 0; i < good.Length; i++)
            {
                now[i] = take[gap.Start + k, good[i]];
            }

            var (qa, ta, _) = Kabsch.Fit(atA, now);
            var (qb, tb, _) = Kabsch.Fit(atB, now);
            var fromA = Vector3.Transform(take[a, marker], qa) + ta;
            var fromB = Vector3.Transform(take[b, marker], qb) + tb;
            values[k] = Vector3.Lerp(fromA, fromB, CubicSpline.MinimumJerk((k + 1) / (float)(gap.Length + 1)));
        }

        return values;
    }

    /// <summary>Markers of the same segment and the linked ones, otherwise those whose distance changes least.</summary>
    private static int[] Mates(MarkerTake take, MarkerSet? set, int marker)
    {
        var (who, name) = MarkerNames.Split(take.Names[marker]);
        var own = set?.Find(name);
        var candidates = Enumerable.Range(0, take.MarkerCount).Where(m => m != marker && MarkerNames.Split(take.Names[m]).Performer == who);
        bool Same(int m) => own is not null && set!.Find(MarkerNames.Split(take.Names[m]).Marker)?.Segment == own.Segment;
        // Mates on the same bone come first; a bone with too few borrows the steadiest neighbours.
        return [.. candidates.Select(m => (Marker: m, Same: Same(m), Spread: DistanceSpread(take, marker, m))).Where(x => x.Same || x.Spread < 0.03).OrderByDescending(x => x.Same).ThenBy(x => x.Spread).Select(x => x.Marker)];
    }

    private static double DistanceSpread(MarkerTake take, int a, int b)
    {
        double sum = 0, squares = 0;
        var n = 0;
        var step = Math.Max(1, take.FrameCount / 200);
        for (var f = 0; f < take.FrameCount; f += step)
        {
            if (MarkerTake.Seen(take[f, a]) && MarkerTake.Seen(take[f, b]))
            {
                double d = (take[f, a] - take[f, b]).Length();
                sum += d;
                squares += d * d;
                n++;
            }
        }

        return n < 10 ? double.PositiveInfinity : Math.Sqrt(Math.Max(0, (squares / n) - (sum / n * (sum / n))));
    }
}
