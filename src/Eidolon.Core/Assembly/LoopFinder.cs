using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>Finds two moments of a motion a cycle apart: the same pose, going on the same way.</summary>
/// <remarks>The distance is <see cref="MomentFinder"/>'s, of windows around both moments, within one motion.</remarks>
public static class LoopFinder
{
    /// <summary>No cycle is shorter, seconds.</summary>
    public const double ShortestSeconds = 0.4;

    /// <summary>Half a window, seconds.</summary>
    private const double Half = 0.09;

    /// <summary>Cycles almost as good as the best one count too: so much worse, and so much of what moves.</summary>
    private const double AlmostShare = 1.2,
        AlmostOfAll = 0.02;

    /// <summary>Added to what moves, so that trembling is no cycle, metres.</summary>
    private const double Little = 0.01;

    /// <summary>A cycle that turns more than this leads round a corner, radians.</summary>
    private const double Corner = 0.2;

    /// <summary>Less than this within a cycle is a body that only sways, metres.</summary>
    private const double Sway = 0.06;

    /// <summary>The best cycle.</summary>
    /// <param name="motion">Its skeleton has roles.</param>
    /// <returns>First frame, and the frame a cycle later, which is the same pose; and how far both are apart, RMS, metres.</returns>
    /// <exception cref="RefusedException">It is shorter than a cycle, or has too few roles.</exception>
    public static (int Start, int End, double Distance) Find(Motion motion)
    {
        var roles = JointCloud.Shared(motion.Skeleton, motion.Skeleton);
        if (roles.Length < 4)
        {
            throw new RefusedException("the skeleton has too few roles to compare poses");
        }

        var least = Math.Max(2, (int)Math.Round(ShortestSeconds * motion.FrameRate));
        if (motion.FrameCount <= least)
        {
            throw new RefusedException($"{motion.FrameCount} frames are shorter than a cycle of {least} frames");
        }

        var cloud = new JointCloud(motion, roles);
        var stands = MomentFinder.Supports(motion);
        var step = Math.Max(1, (int)Math.Round(motion.FrameRate / MomentFinder.CoarseRate));
        var half = Math.Max(1, (int)Math.Round(Half * motion.FrameRate / step));
        var found = Coarse(cloud, stands, motion.FrameCount, step, half, (least + step - 1) / step);
        var lowest = found.Min(c => c.Cost);
        var almost = found.Where(c => c.Cost <= (lowest * AlmostShare) + AlmostOfAll).ToList();
        // Where some go straight, those that lead round a corner are left out.
        var straight = almost.Where(c => Turned(cloud, c.Start * step, c.End * step) < Corner).ToList();
        almost = straight.Count > 0 ? straight : almost;
        // Of a walk the shortest cycle, of someone who stands the longest: it is seen the least.
        var best = almost.TrueForAll(c => c.Moves < Sway)
            ? almost.MaxBy(c => c.End - c.Start)
            : almost.Where(c => c.Moves >= Sway).MinBy(c => (c.End - c.Start, c.Cost));
        return Refine(cloud, motion.FrameCount, best.Start * step, best.End * step, step, half * step, least);
    }

    /// <summary>
    /// All pairs of coarse frames at least a cycle apart that are better than their neighbours. That poses are alike tells nothing where nothing moves,
    /// so their distance is told as a share of how far the body moves away from its pose in between.
    /// </summary>
    private static List<(int Start, int End, double Cost, double Moves)> Coarse(
        JointCloud cloud,
        byte[] stands,
        int frames,
        int step,
        int half,
        int least
    )
    {
        var n = ((frames - 1) / step) + 1;
        var cost = new double[n * n];
        Array.Fill(cost, double.PositiveInfinity);
        for (var d = 1; d < n; d++)
        {
            // Along a diagonal the window moves on by one pair; at both ends of the motion it is cut.
            var (sums, count) = (default(FloorFit), n - d);
            for (var k = 0; k < Math.Min(half, count); k++)
            {
                sums.Add(cloud.Of(k * step), cloud.Of((k + d) * step));
            }

            for (var i = 0; i < count; i++)
            {
                if (i + half < count)
                {
                    sums.Add(cloud.Of((i + half) * step), cloud.Of((i + half + d) * step));
                }

                if (i - half - 1 >= 0)
                {
                    sums.Add(cloud.Of((i - half - 1) * step), cloud.Of((i - half - 1 + d) * step), -1);
                }

                cost[(i * n) + i + d] =
                    sums.Distance + (MomentFinder.OtherSupport * MomentFinder.Differ(stands[i * step], stands[(i + d) * step]));
            }
        }

        var moves = new double[n * n];
        for (var i = 0; i < n; i++)
        {
            var most = 0.0;
            for (var j = i + 1; j < n; j++)
            {
                var here = cost[(i * n) + j];
                most = Math.Max(most, here);
                moves[(i * n) + j] = most;
                cost[(i * n) + j] = j - i < least ? double.PositiveInfinity : here / (most + Little);
            }
        }

        var found = new List<(int, int, double, double)>();
        for (var i = 0; i < n; i++)
        {
            for (var j = i + least; j < n; j++)
            {
                var c = cost[(i * n) + j];
                var lowest = true;
                for (var x = Math.Max(0, i - 1); x <= Math.Min(n - 1, i + 1) && lowest; x++)
                {
                    for (var y = Math.Max(0, j - 1); y <= Math.Min(n - 1, j + 1) && lowest; y++)
                    {
                        lowest = cost[(x * n) + y] >= c;
                    }
                }

                if (lowest)
                {
                    found.Add((i, j, c, moves[(i * n) + j]));
                }
            }
        }

        return found;
    }

    /// <summary>How far the body is turned about the vertical from one frame to the other, radians.</summary>
    private static double Turned(JointCloud cloud, int start, int end)
    {
        var fit = default(FloorFit);
        fit.Add(cloud.Of(start), cloud.Of(end));
        return Rotations.Log(fit.Lay().Turn).Length();
    }

    private static (int Start, int End, double Distance) Refine(
        JointCloud cloud,
        int frames,
        int start,
        int end,
        int step,
        int half,
        int least
    )
    {
        var best = (Start: start, End: end, Distance: double.PositiveInfinity);
        for (var i = Math.Max(0, start - step); i <= Math.Min(frames - 1, start + step); i++)
        {
            for (var j = Math.Max(i + least, end - step); j <= Math.Min(frames - 1, end + step); j++)
            {
                var sums = default(FloorFit);
                for (var k = Math.Max(-half, -i); k <= Math.Min(half, frames - 1 - j); k += Math.Max(1, half / 6))
                {
                    sums.Add(cloud.Of(i + k), cloud.Of(j + k));
                }

                best = sums.Distance < best.Distance ? (i, j, sums.Distance) : best;
            }
        }

        return best;
    }
}
