using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Cleaning;

/// <summary>A gap with those it can be filled by, and the trials that say how far off a method is to be expected.</summary>
/// <param name="company">Markers that keep company with this one, best first.</param>
/// <param name="seen">The marker is seen in truth: it is a witness, and must not be looked at in the gap.</param>
internal sealed class OpenGap(
    MarkerTake take,
    int marker,
    Gap gap,
    (int Marker, bool Rigid)[] company,
    Lazy<SkeletonCarrier>? skeleton,
    bool seen = false
)
{
    private const int Trials = 4;

    /// <summary>So many stretches at either side are looked at for trials.</summary>
    private const int Looks = 12;

    /// <summary>So many of the nearest markers are tried in the gap's own frames.</summary>
    private const int Witnesses = 2;

    /// <summary>Shortest stretch that is tried where none as long as the gap is seen, frames.</summary>
    private const int Shortest = 3;

    private readonly Dictionary<FillMethod, double> _novelty = [];
    private readonly (int Marker, bool Rigid)[] _present = [.. company.Where(c => Throughout(take, c.Marker, gap))];

    /// <summary>Whether nothing of the marker's own bone is seen throughout: what is filled marker by marker then comes apart.</summary>
    public bool Alone => !_present.Any(c => c.Rigid);

    /// <summary>Without two ends only the skeleton can say anything.</summary>
    public bool HasTwoEnds => gap.HasTwoEnds(take.FrameCount);

    public double Seconds => gap.Length / take.FrameRate;

    /// <summary>What the method puts into the gap; null where it cannot.</summary>
    public Vector3[]? Try(FillMethod method)
    {
        var values = Try(gap, method, gap, out var novelty);
        _novelty[method] = novelty;
        return values;
    }

    /// <summary>
    /// What the method is to be expected off, RMS, metres: as it was on stretches nearby in which the marker is seen and everything else is as in the
    /// gap (where none is as long, on shorter ones, grown with the length), and as it is on the nearest markers in the gap itself; NaN where nothing can be
    /// compared.
    /// </summary>
    public double Expected(FillMethod method)
    {
        var (then, now) = (Then(method), Now(method));
        return double.IsNaN(then) ? now
            : double.IsNaN(now) ? then
            : Math.Sqrt(((then * then) + (now * now)) / 2);
    }

    /// <summary>On stretches nearby. A guess from markers that lie as they hardly do elsewhere is worth less than those that were tried.</summary>
    private double Then(FillMethod method)
    {
        for (var length = gap.Length; length >= Math.Min(gap.Length, Shortest); length /= 2)
        {
            if (Trial(method, length) is { } rms)
            {
                // A curve leaves the way with the square of the time, what has company does so more slowly.
                var longer = gap.Length / (double)length;
                return rms * Math.Max(1, _novelty.GetValueOrDefault(method, 1)) * (method == FillMethod.Spline ? longer * longer : longer);
            }
        }

        return double.NaN;
    }

    /// <summary>On the nearest markers, as if they were hidden in the gap's own frames.</summary>
    private double Now(FillMethod method)
    {
        double sum = 0;
        var n = 0;
        foreach (var mate in Company())
        {
            var other = new OpenGap(take, mate, gap, [.. _present.Where(c => c.Marker != mate)], skeleton, seen: true);
            if (other.Try(method) is { } values)
            {
                for (var i = 0; i < values.Length; i++)
                {
                    if (!MarkerTake.Seen(take[gap.Start + i, mate]))
                    {
                        continue;
                    }

                    sum += (values[i] - take[gap.Start + i, mate]).LengthSquared();
                    n++;
                }
            }
        }

        return n == 0 ? double.NaN : Math.Sqrt(sum / n);
    }

    /// <summary>The witnesses: those of the company that are seen throughout; a marker that is never seen kept none, then those beside it on the body.</summary>
    private IEnumerable<int> Company() =>
        _present.Length > 0 || HasTwoEnds
            ? _present.Take(Witnesses).Select(c => c.Marker)
            : skeleton?.Value.Beside(marker).Where(c => MarkerTake.Seen(take[(gap.Start + gap.End) / 2, c])).Take(Witnesses) ?? [];

    private double? Trial(FillMethod method, int length)
    {
        double sum = 0;
        var (n, trials) = (0, 0);
        // The trials see the same company as the gap itself.
        var real = new Gap(gap.Start, gap.Start + length - 1);
        foreach (var g in Stretches(length))
        {
            if (Try(g, method, real, out var novelty) is not { } values)
            {
                continue;
            }

            for (var i = 0; i < g.Length; i++)
            {
                sum += (values[i] - take[g.Start + i, marker]).LengthSquared() / (novelty * novelty);
                n++;
            }

            if (++trials >= Trials)
            {
                break;
            }
        }

        return n == 0 ? null : Math.Sqrt(sum / n);
    }

    private List<Gap>? _stretches;

    /// <summary>Stretches of a length near the gap in which the marker and its nearest company are seen, the nearest first.</summary>
    private List<Gap> Stretches(int length)
    {
        if (length == gap.Length && _stretches is not null)
        {
            return _stretches;
        }

        var list = new List<Gap>();
        for (var k = 1; k <= Looks; k++)
        {
            foreach (var start in new[] { gap.Start - (k * (length + 4)), gap.End + 1 + (k * 4) + ((k - 1) * length) })
            {
                var g = new Gap(start, start + length - 1);
                if (
                    g.Start >= 2
                    && g.End <= take.FrameCount - 3
                    && Throughout(take, marker, g)
                    && _present.Take(4).All(c => Throughout(take, c.Marker, g))
                )
                {
                    list.Add(g);
                }
            }
        }

        if (length == gap.Length)
        {
            _stretches = list;
        }

        return list;
    }

    private Vector3[]? Try(Gap at, FillMethod method, Gap real, out double novelty)
    {
        novelty = 1;
        if (method is FillMethod.Spline)
        {
            return CurveFill.Fill(take, marker, at);
        }

        if (method is FillMethod.Skeleton)
        {
            return SkeletonFill.Fill(take, marker, at, real, seen, skeleton?.Value);
        }

        var there = _present
            .Where(c => (method != FillMethod.Rigid || c.Rigid) && Throughout(take, c.Marker, at))
            .Select(c => c.Marker)
            .Take(14)
            .ToArray();
        return method switch
        {
            FillMethod.Rigid => RigidFill.Fill(take, marker, at, there),
            FillMethod.Correlation => CorrelationFill.Fill(take, marker, at, there, Frame, out novelty),
            _ => CycleFill.Fill(take, marker, at, there, Frame),
        };
    }

    private readonly List<(int[] Markers, LocalFrame Frame)> _frames = [];

    /// <summary>The frame of some markers that are seen throughout the gap; all trials of it share one.</summary>
    private LocalFrame Frame(int[] markers)
    {
        foreach (var (known, frame) in _frames)
        {
            if (known.AsSpan().SequenceEqual(markers))
            {
                return frame;
            }
        }

        var (from, to) = CycleFill.Window(take, gap);
        var fresh = new LocalFrame(take, markers, gap.Start - 1).Remembering(from, to);
        _frames.Add((markers, fresh));
        return fresh;
    }

    private static bool Throughout(MarkerTake take, int marker, Gap gap)
    {
        for (var f = Math.Max(0, gap.Start - 1); f <= Math.Min(take.FrameCount - 1, gap.End + 1); f++)
        {
            if (!MarkerTake.Seen(take[f, marker]))
            {
                return false;
            }
        }

        return true;
    }
}
