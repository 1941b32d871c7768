using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Hands;

/// <summary>What every way of finding hands has in common: the shapes, the hand's frame in the room, and the report.</summary>
internal static class HandWork
{
    /// <summary>A finger this far from where it was seen is not where it was seen, metres.</summary>
    public const float FarOff = 0.008f;

    /// <summary>For so long at least, seconds.</summary>
    public const double Shortest = 0.05;

    public static HandShape Shape(int side, float stature) => HandShape.Average(side == 0 ? 'L' : 'R', HandShape.LengthShare * stature);

    public static int HandOf(Skeleton body, int side)
    {
        var hand = body.IndexOf(side == 0 ? BodyRole.HandL : BodyRole.HandR);
        return hand >= 0 ? hand : throw new RefusedException($"the motion has no {(side == 0 ? "left" : "right")} hand to put fingers on");
    }

    /// <summary>World frames of both hands: [frame × 2 + side].</summary>
    public static (Quaternion[] Turns, Vector3[] Places) Frames(Motion motion)
    {
        var s = motion.Skeleton;
        var hands = new[] { HandOf(s, 0), HandOf(s, 1) };
        var (turns, places) = (new Quaternion[motion.FrameCount * 2], new Vector3[motion.FrameCount * 2]);
        var (r, p) = (new Quaternion[s.Count], new Vector3[s.Count]);
        for (var f = 0; f < motion.FrameCount; f++)
        {
            ForwardKinematics.World(motion, f, r, p);
            for (var side = 0; side < 2; side++)
            {
                (turns[(f * 2) + side], places[(f * 2) + side]) = (r[hands[side]], p[hands[side]]);
            }
        }

        return (turns, places);
    }

    public static IReadOnlyList<FingerReport> Fingers(HandPoses poses, HandShape[] shapes, float stature)
    {
        var list = new List<FingerReport>();
        for (var side = 0; side < 2; side++)
        {
            var average = Shape(side, stature);
            for (var finger = 0; finger < HandShape.FingerCount; finger++)
            {
                var (sum, seen) = (0.0, 0);
                for (var f = 0; f < poses.FrameCount; f++)
                {
                    var r = poses.Residuals[HandPoses.At(f, side, finger)];
                    (sum, seen) = float.IsNaN(r) ? (sum, seen) : (sum + r, seen + 1);
                }

                list.Add(
                    new FingerReport(
                        shapes[side].Side,
                        HandShape.Names[finger],
                        poses.FrameCount == 0 ? 0 : (double)seen / poses.FrameCount,
                        seen == 0 ? double.NaN : sum / seen * 1000,
                        shapes[side].Fingers[finger].Length / average.Fingers[finger].Length
                    )
                );
            }
        }

        return list;
    }

    /// <summary>Stretches in which a finger cannot be where it was seen, the longest first.</summary>
    /// <param name="with">The finger whose marker it would fit better, of every sample; −1 where it is its own.</param>
    public static IReadOnlyList<FingerOff> Off(HandPoses poses, double rate, int[] with)
    {
        var list = new List<FingerOff>();
        var least = Math.Max(2, (int)Math.Round(Shortest * rate));
        for (var side = 0; side < 2; side++)
        {
            for (var finger = 0; finger < HandShape.FingerCount; finger++)
            {
                for (var f = 0; f < poses.FrameCount; f++)
                {
                    float At(int frame) => poses.Residuals[HandPoses.At(frame, side, finger)];
                    var (start, worst, other) = (f, f, -1);
                    while (f < poses.FrameCount && (At(f) > FarOff || with[HandPoses.At(f, side, finger)] >= 0))
                    {
                        worst = At(f) > At(worst) ? f : worst;
                        other = Math.Max(other, with[HandPoses.At(f, side, finger)]);
                        f++;
                    }

                    if (f - start >= least)
                    {
                        list.Add(
                            new FingerOff(
                                side == 0 ? 'L' : 'R',
                                HandShape.Names[finger],
                                start,
                                f - 1,
                                At(worst) * 1000,
                                other < 0 ? string.Empty : HandShape.Names[other]
                            )
                        );
                    }
                }
            }
        }

        return [.. list.OrderByDescending(o => o.End - o.Start)];
    }
}
