using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Clipping;

/// <summary>Moves arms out of the body they went into: hand and elbow by as little as it takes, eased in and out; hands keep their turn.</summary>
public static class PushOut
{
    /// <summary>Eases in and out over so much time to either side, seconds.</summary>
    private const double Ease = 0.1;

    private const int Rounds = 30;

    /// <summary>A correction aims a little past the surface, metres.</summary>
    private const float Past = 0.001f;

    /// <summary>Each round asks for so many times what is left, since easing takes of it.</summary>
    private const float More = 1.6f;

    /// <summary>The end of a limb that is nearer to where it went in moves more; the other at least by this share.</summary>
    private const float Along = 0.25f;

    /// <summary>A motion without clipping arms, or with as little as can be had.</summary>
    /// <param name="motion">Its skeleton has roles.</param>
    /// <param name="volumes">What may not go into one another.</param>
    public static (Motion Motion, PushOutReport Report) Apply(
        Motion motion,
        BodyVolumes volumes,
        CancellationToken cancel = default,
        IProgress<double>? progress = null
    )
    {
        var (s, n) = (motion.Skeleton, motion.Skeleton.Count);
        var turns = new Quaternion[motion.Rotations.Length];
        var places = ForwardKinematics.WorldPositions(motion, turns);
        var before = ClippingMeasure.Measure(motion, places, turns, volumes);
        var result = motion.Copy();
        if (before.Count == 0)
        {
            return (result, new PushOutReport(before, before, 0, 0));
        }

        var (now, nowTurns) = (places.AsSpan().ToArray(), turns.AsSpan().ToArray());
        var wishes = LimbRoles.Arms.Select(_ => new Wish(motion.FrameCount)).ToArray();
        for (var round = 0; round < Rounds; round++)
        {
            cancel.ThrowIfCancellationRequested();
            progress?.Report(round / (double)Rounds);
            var any = false;
            for (var side = 0; side < 2; side++)
            {
                any |= Ask(volumes, LimbRoles.Arms[side], s, now, nowTurns, wishes[side]);
            }

            if (!any)
            {
                break;
            }

            for (var side = 0; side < 2; side++)
            {
                Move(motion, LimbRoles.Arms[side], wishes[side], (places, turns), (now, nowTurns), result);
            }
        }

        var after = ClippingMeasure.Measure(result, now, nowTurns, volumes);
        double hand = 0,
            elbow = 0;
        foreach (var (_, lower, end) in LimbRoles.Arms)
        {
            for (var f = 0; f < motion.FrameCount; f++)
            {
                double Moved(BodyRole role) => Vector3.Distance(now[(f * n) + s.IndexOf(role)], places[(f * n) + s.IndexOf(role)]) * 1000;
                (hand, elbow) = (Math.Max(hand, Moved(end)), Math.Max(elbow, Moved(lower)));
            }
        }

        return (result, new PushOutReport(before, after, hand, elbow));
    }

    /// <summary>What was asked of an arm so far, and what that comes to without a jolt.</summary>
    private sealed class Wish(int frames)
    {
        public Vector3[] Hand { get; } = new Vector3[frames];

        public Vector3[] Elbow { get; } = new Vector3[frames];
    }

    /// <summary>Adds to the wishes what is still inside something.</summary>
    private static bool Ask(
        BodyVolumes volumes,
        (BodyRole Upper, BodyRole Lower, BodyRole End) arm,
        Skeleton s,
        Vector3[] places,
        Quaternion[] turns,
        Wish wish
    )
    {
        var n = s.Count;
        var any = false;
        BodyVolume[] own = [.. volumes.Arms.Where(v => v.Part == arm.Lower.ToString() || v.Part == arm.End.ToString())],
            bodies = [.. volumes.Trunk];
        for (var f = 0; f < wish.Hand.Length; f++)
        {
            var p = places.AsSpan(f * n, n);
            var t = turns.AsSpan(f * n, n);
            foreach (var a in own)
            {
                var (a1, a2) = ClippingMeasure.Ends(a, p, t);
                foreach (var b in bodies)
                {
                    var (b1, b2) = ClippingMeasure.Ends(b, p, t);
                    var (u, v) = Segments.Nearest(a1, a2, b1, b2);
                    var way = Vector3.Lerp(a1, a2, u) - Vector3.Lerp(b1, b2, v);
                    var depth = a.Radius + b.Radius - way.Length();
                    if (depth <= ClippingMeasure.Unseen * 0.5f)
                    {
                        continue;
                    }

                    any = true;
                    // Straight out; from the very middle, to where the elbow is.
                    var aside =
                        way.Length() > 1e-4f ? Vector3.Normalize(way) : Vector3.Normalize(p[s.IndexOf(arm.Lower)] - ((b1 + b2) / 2));
                    var push = aside * ((depth + Past) * More);
                    var share = a.Part == arm.End.ToString() ? 1 : u;
                    wish.Hand[f] += push * MathF.Max(Along, share);
                    wish.Elbow[f] += push * MathF.Max(Along, 1 - share);
                }
            }
        }

        return any;
    }

    /// <summary>Hand and elbow where the wishes, eased, put them.</summary>
    private static void Move(
        Motion motion,
        (BodyRole Upper, BodyRole Lower, BodyRole End) arm,
        Wish wish,
        (Vector3[] Places, Quaternion[] Turns) was,
        (Vector3[] Places, Quaternion[] Turns) now,
        Motion result
    )
    {
        var (s, n) = (motion.Skeleton, motion.Skeleton.Count);
        var limb = new LimbReach(s, arm.Upper, arm.Lower, arm.End);
        var radius = Math.Max(2, (int)(motion.FrameRate * Ease));
        var (hand, elbow) = (Eased(wish.Hand, radius), Eased(wish.Elbow, radius));
        var (upper, lower, end) = limb.Joints;
        var carried = s.Branch(upper);
        for (var f = 0; f < motion.FrameCount; f++)
        {
            if (hand[f] == Vector3.Zero && elbow[f] == Vector3.Zero)
            {
                continue;
            }

            var p = now.Places.AsSpan(f * n, n);
            var t = now.Turns.AsSpan(f * n, n);
            foreach (var j in carried)
            {
                p[j] = was.Places[(f * n) + j];
                t[j] = was.Turns[(f * n) + j];
            }

            limb.Reach(t, p, p[end] + hand[f]);
            limb.Swivel(t, p, was.Places[(f * n) + lower] + elbow[f], 1);
            limb.Settle(s, carried, t, p, result.RotationsAt(f));
        }
    }

    /// <summary>Wishes over time without a jolt. What falls short of a brief wish is asked for again in the next round.</summary>
    private static Vector3[] Eased(Vector3[] wishes, int radius) => Smoothing.Mean(Smoothing.Mean(wishes, radius), radius);
}
