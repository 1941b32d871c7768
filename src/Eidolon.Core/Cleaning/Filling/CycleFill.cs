using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Cleaning;

/// <summary>Copies the stretch of the take in which the markers around moved most as they do through the gap.</summary>
internal static class CycleFill
{
    private const int Compared = 8;

    /// <summary>Null when the take has no other stretch in which all are seen.</summary>
    public static Vector3[]? Fill(MarkerTake take, int marker, Gap gap, ReadOnlySpan<int> mates)
    {
        if (mates.Length < 3)
        {
            return null;
        }

        int[] used = [.. mates[..Math.Min(6, mates.Length)]];
        var frame = new LocalFrame(take, used[..Math.Min(4, used.Length)], gap.Start - 1);
        int a = gap.Start - 1,
            b = gap.End + 1,
            length = b - a;
        var all = new int?[take.FrameCount];
        var frames = new (Quaternion Turn, Vector3 Shift)[take.FrameCount];
        for (var f = 0; f < take.FrameCount; f++)
        {
            if (CorrelationFill.AllSeen(take, f, used))
            {
                frames[f] = frame.At(f);
                all[f] = f;
            }
        }

        var (best, least) = (-1, double.PositiveInfinity);
        for (var s = 0; s + length < take.FrameCount; s += 2)
        {
            if (s + length >= a && s <= b)
            {
                continue;
            }

            double sum = 0;
            for (var k = 0; k <= Compared && sum < least; k++)
            {
                var at = length * k / Compared;
                if (all[s + at] is null || all[a + at] is null || !MarkerTake.Seen(take[s + at, marker]))
                {
                    sum = double.PositiveInfinity;
                    break;
                }

                foreach (var m in used)
                {
                    sum += (
                        LocalFrame.In(frames[s + at], take[s + at, m]) - LocalFrame.In(frames[a + at], take[a + at, m])
                    ).LengthSquared();
                }
            }

            if (sum < least && Enumerable.Range(s, length + 1).All(f => all[f] is not null && MarkerTake.Seen(take[f, marker])))
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
            values[k] = LocalFrame.In(frames[best + 1 + k], take[best + 1 + k, marker]);
        }

        EdgeFit.Carry(
            values,
            gap,
            f =>
                f == a ? LocalFrame.In(frames[a], take[a, marker]) - LocalFrame.In(frames[best], take[best, marker])
                : f == b ? LocalFrame.In(frames[b], take[b, marker]) - LocalFrame.In(frames[best + length], take[best + length, marker])
                : null,
            double.PositiveInfinity
        );
        for (var k = 0; k < values.Length; k++)
        {
            if (all[gap.Start + k] is null)
            {
                return null;
            }

            values[k] = LocalFrame.Out(frames[gap.Start + k], values[k]);
        }

        return values;
    }
}
