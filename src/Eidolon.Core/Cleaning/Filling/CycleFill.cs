using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Cleaning;

/// <summary>Copies the stretch of the take in which the markers around moved most as they do through the gap.</summary>
internal static class CycleFill
{
    private const int Compared = 8;

    /// <summary>How far from the gap another cycle is looked for, seconds: a long take costs a gap no more than a short one.</summary>
    internal const double Reach = 60;

    /// <summary>Null when the take has no other stretch in which all are seen.</summary>
    /// <param name="frameOf">The local frame of some markers.</param>
    public static Vector3[]? Fill(MarkerTake take, int marker, Gap gap, ReadOnlySpan<int> mates, Func<int[], LocalFrame> frameOf)
    {
        if (mates.Length < 3)
        {
            return null;
        }

        int[] used = [.. mates[..Math.Min(6, mates.Length)]];
        var frame = frameOf(used[..Math.Min(CorrelationFill.Based, used.Length)]);
        int a = gap.Start - 1,
            b = gap.End + 1,
            length = b - a;
        var (from, to) = Window(take, gap);
        var all = new bool[to - from];
        var frames = new (Quaternion Turn, Vector3 Shift)[to - from];
        for (var f = from; f < to; f++)
        {
            if (CorrelationFill.AllSeen(take, f, used))
            {
                frames[f - from] = frame.At(f);
                all[f - from] = true;
            }
        }

        var (best, least) = (-1, double.PositiveInfinity);
        for (var s = from; s + length < to; s += 2)
        {
            if (s + length >= a && s <= b)
            {
                continue;
            }

            double sum = 0;
            for (var k = 0; k <= Compared && sum < least; k++)
            {
                var at = length * k / Compared;
                if (!all[s + at - from] || !all[a + at - from] || !MarkerTake.Seen(take[s + at, marker]))
                {
                    sum = double.PositiveInfinity;
                    break;
                }

                foreach (var m in used)
                {
                    sum += (
                        LocalFrame.In(frames[s + at - from], take[s + at, m]) - LocalFrame.In(frames[a + at - from], take[a + at, m])
                    ).LengthSquared();
                }
            }

            if (sum < least && Enumerable.Range(s, length + 1).All(f => all[f - from] && MarkerTake.Seen(take[f, marker])))
            {
                (best, least) = (s, sum);
            }
        }

        if (best < 0)
        {
            return null;
        }

        var values = new Vector3[gap.Length];
        for (var k = 0; k < values.Length; k++)
        {
            values[k] = LocalFrame.In(frames[best + 1 + k - from], take[best + 1 + k, marker]);
        }

        EdgeFit.Carry(
            values,
            gap,
            f =>
                f == a ? LocalFrame.In(frames[a - from], take[a, marker]) - LocalFrame.In(frames[best - from], take[best, marker])
                : f == b
                    ? LocalFrame.In(frames[b - from], take[b, marker])
                        - LocalFrame.In(frames[best + length - from], take[best + length, marker])
                : null,
            double.PositiveInfinity
        );
        for (var k = 0; k < values.Length; k++)
        {
            if (!all[gap.Start + k - from])
            {
                return null;
            }

            values[k] = LocalFrame.Out(frames[gap.Start + k - from], values[k]);
        }

        return values;
    }

    /// <summary>The frames within reach of a gap: first, and one past the last.</summary>
    internal static (int From, int To) Window(MarkerTake take, Gap gap)
    {
        var reach = (int)(Reach * take.FrameRate);
        return (Math.Max(0, gap.Start - 1 - reach), Math.Min(take.FrameCount, gap.End + 2 + reach));
    }
}
