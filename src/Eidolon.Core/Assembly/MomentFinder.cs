using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>Finds where two motions are most alike: good moments to overlap them.</summary>
/// <remarks>
/// The distance of joint clouds over a window after the best alignment on the floor (Kovar, Gleicher and Pighin, "Motion Graphs", 2002). Its sums are
/// gathered along the diagonals of all pairs of frames at no more than <see cref="CoarseRate"/> a second; the best pairs are then looked at frame by frame.
/// </remarks>
public static class MomentFinder
{
    /// <summary>Length of an overlap when nothing is said, seconds.</summary>
    public const double OverlapSeconds = 0.3;

    internal const double CoarseRate = 30;

    /// <summary>Two moments nearer than this in both motions are one, seconds.</summary>
    private const double Apart = 0.25;

    /// <summary>Feet that stand differently in the two are as bad as joints so much farther apart, metres.</summary>
    internal const float OtherSupport = 0.03f;

    /// <summary>The best moments, best first.</summary>
    /// <param name="a">The earlier motion; its skeleton has roles.</param>
    /// <param name="b">The later one, on a skeleton with the same roles and at the same rate.</param>
    /// <param name="count">How many at most.</param>
    /// <exception cref="RefusedException">They share no joints, are at other rates, or one is shorter than an overlap.</exception>
    public static IReadOnlyList<OverlapMoment> Find(Motion a, Motion b, int count = 5) => Look(a, b, count).Moments;

    /// <summary>The best moments, and how well each frame of the earlier motion would do.</summary>
    /// <inheritdoc cref="Find"/>
    public static MomentLook Look(Motion a, Motion b, int count = 5)
    {
        if (Math.Abs(a.FrameRate - b.FrameRate) > 1e-6)
        {
            throw new RefusedException(
                $"the motions are at {a.FrameRate:0.###} and {b.FrameRate:0.###} frames a second: bring them to one rate first"
            );
        }

        var frames = Math.Max(2, (int)Math.Round(OverlapSeconds * a.FrameRate));
        if (Math.Min(a.FrameCount, b.FrameCount) < frames)
        {
            throw new RefusedException($"a motion is shorter than an overlap of {frames} frames");
        }

        var roles = JointCloud.Shared(a.Skeleton, b.Skeleton);
        if (roles.Length < 4)
        {
            throw new RefusedException("the two skeletons share too few roles to be laid on each other");
        }

        var (one, other) = (new JointCloud(a, roles), new JointCloud(b, roles));
        var (stands, standing) = (Supports(a), Supports(b));
        var step = Math.Max(1, (int)Math.Round(a.FrameRate / CoarseRate));
        var window = Math.Max(1, (int)Math.Round((double)frames / step));
        var (rows, columns) = (((a.FrameCount - frames) / step) + 1, ((b.FrameCount - frames) / step) + 1);
        var cost = Coarse(one, other, rows, columns, step, window);
        for (var i = 0; i < rows; i++)
        {
            for (var j = 0; j < columns; j++)
            {
                cost[(i * columns) + j] += OtherSupport * Differ(stands[(i * step) + (frames / 2)], standing[(j * step) + (frames / 2)]);
            }
        }

        var found = new List<OverlapMoment>();
        foreach (var at in Lowest(cost, rows, columns))
        {
            if (found.Count >= count)
            {
                break;
            }

            var best = Refine(one, other, at / columns * step, at % columns * step, step, frames, a.FrameCount, b.FrameCount);
            var apart = Apart * a.FrameRate;
            if (found.TrueForAll(f => Math.Abs(f.A - best.A) > apart || Math.Abs(f.B - best.B) > apart))
            {
                found.Add(
                    new OverlapMoment(
                        best.A,
                        best.B,
                        frames,
                        best.Distance * 1000,
                        Word(stands[best.A + (frames / 2)]),
                        Word(standing[best.B + (frames / 2)])
                    )
                );
            }
        }

        double Least(int row) => Enumerable.Range(row * columns, columns).Min(k => cost[k]) * 1000;
        return new MomentLook(found, step, [.. Enumerable.Range(0, rows).Select(Least)]);
    }

    /// <summary>How far the joints are apart over an overlap, RMS, metres, the later motion laid on the earlier one on the floor.</summary>
    public static double Distance(Motion a, int frameA, Motion b, int frameB, int frames)
    {
        var roles = JointCloud.Shared(a.Skeleton, b.Skeleton);
        return Over(new JointCloud(a, roles), frameA, new JointCloud(b, roles), frameB, frames, 1);
    }

    /// <summary>The distance of every pair of windows, metres: [row × columns + column], in steps of both motions.</summary>
    private static double[] Coarse(JointCloud a, JointCloud b, int rows, int columns, int step, int window)
    {
        var cost = new double[rows * columns];
        // Along a diagonal a window moves on by one pair: one comes in, one goes out.
        for (var d = -(rows - 1); d < columns; d++)
        {
            var (i, j) = (Math.Max(0, -d), Math.Max(0, d));
            var sums = default(FloorFit);
            for (var k = 0; k < window; k++)
            {
                sums.Add(a.Of((i + k) * step), b.Of((j + k) * step));
            }

            for (; i < rows && j < columns; i++, j++)
            {
                cost[(i * columns) + j] = sums.Distance;
                if (i + 1 < rows && j + 1 < columns)
                {
                    sums.Add(a.Of(i * step), b.Of(j * step), -1);
                    sums.Add(a.Of((i + window) * step), b.Of((j + window) * step));
                }
            }
        }

        return cost;
    }

    private static double Over(JointCloud a, int frameA, JointCloud b, int frameB, int frames, int step)
    {
        var sums = default(FloorFit);
        for (var k = 0; k < frames; k += step)
        {
            sums.Add(a.Of(frameA + k), b.Of(frameB + k));
        }

        return sums.Distance;
    }

    private static (int A, int B, double Distance) Refine(
        JointCloud a,
        JointCloud b,
        int i,
        int j,
        int step,
        int frames,
        int framesA,
        int framesB
    )
    {
        var best = (A: i, B: j, Distance: double.PositiveInfinity);
        for (var x = Math.Max(0, i - step); x <= Math.Min(framesA - frames, i + step); x++)
        {
            for (var y = Math.Max(0, j - step); y <= Math.Min(framesB - frames, j + step); y++)
            {
                var distance = Over(a, x, b, y, frames, Math.Max(1, frames / 12));
                best = distance < best.Distance ? (x, y, distance) : best;
            }
        }

        return best with
        {
            Distance = Over(a, best.A, b, best.B, frames, 1),
        };
    }

    /// <summary>Pairs lower than their eight neighbours, the lowest first.</summary>
    private static IEnumerable<int> Lowest(double[] cost, int rows, int columns)
    {
        bool Low(int at)
        {
            var (i, j) = (at / columns, at % columns);
            for (var x = Math.Max(0, i - 1); x <= Math.Min(rows - 1, i + 1); x++)
            {
                for (var y = Math.Max(0, j - 1); y <= Math.Min(columns - 1, j + 1); y++)
                {
                    if (cost[(x * columns) + y] < cost[at])
                    {
                        return false;
                    }
                }
            }

            return true;
        }

        return Enumerable.Range(0, cost.Length).Where(Low).OrderBy(k => cost[k]);
    }

    /// <summary>Of each frame: 1 for the left foot, 2 for the right one, 3 for both.</summary>
    internal static byte[] Supports(Motion motion)
    {
        var stands = new byte[motion.FrameCount];
        foreach (var c in BodyContacts.Find(motion).Joints)
        {
            var side = BodyRoles.Side(c.Role) == 'L' ? 1 : 2;
            for (var f = Math.Max(0, c.Start); f <= Math.Min(stands.Length - 1, c.End); f++)
            {
                stands[f] |= (byte)side;
            }
        }

        return stands;
    }

    internal static int Differ(byte a, byte b) => BitOperations.PopCount((uint)(a ^ b));

    private static string Word(byte stands) =>
        stands switch
        {
            1 => "L",
            2 => "R",
            3 => "both",
            _ => "none",
        };
}
