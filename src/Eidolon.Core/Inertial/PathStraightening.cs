using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Geometry;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Inertial;

/// <summary>
/// Makes a stretch of a way straight that was straight and is not: where a heading drifted the body is turned back bit by bit, along the direction
/// in which the stretch begins. What comes before stays, what comes after moves along as a whole.
/// </summary>
public static class PathStraightening
{
    /// <summary>Sway of the hips is no part of the way: the way is what is left after the mean of so much to either side, seconds.</summary>
    private const double Sway = 0.75;

    /// <summary>Who goes slower than this has no direction of travel, m/s.</summary>
    private const double Slowest = 0.25;

    /// <summary>How far the stretch turns from its beginning to its end, degrees; the farther of both sides.</summary>
    public static double Bend(Motion motion, int start, int end) =>
        Turns(motion, start, end).Select(t => Math.Abs(t)).DefaultIfEmpty(0).Max() * 180 / Math.PI;

    /// <summary>The same motion with the stretch made straight; planted feet are held again.</summary>
    /// <param name="start">First frame of the stretch.</param>
    /// <param name="end">Last frame of the stretch.</param>
    /// <exception cref="RefusedException">Nobody goes anywhere in the stretch.</exception>
    public static Motion Straighten(Motion motion, int start, int end, IReadOnlyList<ContactEdit>? edits = null)
    {
        (start, end) = (Math.Clamp(start, 0, motion.FrameCount - 1), Math.Clamp(end, 0, motion.FrameCount - 1));
        var turns = Turns(motion, start, end);
        if (turns.Length == 0)
        {
            throw new RefusedException("nobody goes anywhere in this stretch: there is no way to make straight");
        }

        var result = motion.Copy();
        var n = motion.Skeleton.Count;
        var place = motion.Translations[start * n];
        for (var f = start + 1; f < motion.FrameCount; f++)
        {
            var turn = Rotations.AboutAxis(1, -turns[Math.Min(f, end) - start]);
            place += Vector3.Transform(motion.Translations[f * n] - motion.Translations[(f - 1) * n], turn);
            result.Translations[f * n] = place;
            result.Rotations[f * n] = Quaternion.Normalize(turn * motion.Rotations[f * n]);
        }

        FootPin.Hold(result, start, result.FrameCount - 1, edits ?? []);
        return result;
    }

    /// <summary>How far the way has turned since the stretch began, a frame each, radians; empty where nobody goes anywhere.</summary>
    private static double[] Turns(Motion motion, int start, int end)
    {
        var n = motion.Skeleton.Count;
        var count = Math.Max(0, end - start + 1);
        var half = Math.Max(1, (int)Math.Min(Sway * motion.FrameRate, count / 5.0));
        // The direction of the way is where the root has come over the time around each frame.
        var turns = new double[count];
        var known = new List<int>();
        for (var k = 0; k < count; k++)
        {
            var (a, b) = (start + k - half, start + k + half);
            if (a < start || b > end)
            {
                continue;
            }

            var way = motion.Translations[b * n] - motion.Translations[a * n];
            var speed = Math.Sqrt((way.X * way.X) + (way.Z * way.Z)) * motion.FrameRate / Math.Max(1, b - a);
            if (speed < Slowest)
            {
                continue;
            }

            turns[k] = Math.Atan2(way.X, way.Z);
            known.Add(k);
        }

        if (known.Count == 0)
        {
            return [];
        }

        Unwrap(turns, known);
        Fill(turns, known, half);
        var smooth = Mean(turns, half);
        return [.. smooth.Select(t => t - smooth[0])];
    }

    private static void Unwrap(double[] turns, List<int> known)
    {
        for (var i = 1; i < known.Count; i++)
        {
            turns[known[i]] = turns[known[i - 1]] + Math.IEEERemainder(turns[known[i]] - turns[known[i - 1]], 2 * Math.PI);
        }
    }

    /// <summary>
    /// Who stands takes the next direction bit by bit; before the first known one and after the last the way goes on turning as it does there, for as
    /// long as it takes to tell a direction.
    /// </summary>
    private static void Fill(double[] turns, List<int> known, int half)
    {
        double Slope(int from, int to) => to > from ? (turns[known[to]] - turns[known[from]]) / (known[to] - known[from]) : 0;
        var last = known.Count - 1;
        var (before, after) = (Slope(0, Math.Min(last, half)), Slope(Math.Max(0, last - half), last));
        for (var i = 0; i <= known.Count; i++)
        {
            var (a, b) = (i == 0 ? -1 : known[i - 1], i == known.Count ? turns.Length : known[i]);
            for (var k = a + 1; k < b; k++)
            {
                turns[k] =
                    a < 0 ? turns[b] - (before * Math.Min(half, b - k))
                    : b == turns.Length ? turns[a] + (after * Math.Min(half, k - a))
                    : turns[a] + ((turns[b] - turns[a]) * (k - a) / (b - a));
            }
        }
    }

    private static double[] Mean(double[] values, int half)
    {
        var sums = new double[values.Length + 1];
        for (var k = 0; k < values.Length; k++)
        {
            sums[k + 1] = sums[k] + values[k];
        }

        return
        [
            .. Enumerable
                .Range(0, values.Length)
                .Select(k =>
                {
                    // As much on one side as on the other, so that ends keep their direction.
                    var reach = Math.Min(half, Math.Min(k, values.Length - 1 - k));
                    return (sums[k + reach + 1] - sums[k - reach]) / ((2 * reach) + 1);
                }),
        ];
    }
}
