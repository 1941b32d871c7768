using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Solving;

/// <summary>Finds the frame in which the performer stands in the T-pose, and which way they face.</summary>
internal static class RestFrame
{
    /// <summary>The frame where hands are widest apart at shoulder height, with most markers seen. −1 when no frame shows both sides.</summary>
    public static int Find(MarkerTake take, MarkerSet set)
    {
        var best = -1;
        var bestScore = float.NegativeInfinity;
        var step = Math.Max(1, (int)(take.FrameRate / 20));
        for (var f = 0; f < take.FrameCount; f += step)
        {
            var left = Centre(take, set, f, Arm('L'));
            var right = Centre(take, set, f, Arm('R'));
            var seen = take.At(f).ToArray().Count(MarkerTake.Seen);
            if (left is not { } l || right is not { } r || seen < take.MarkerCount * 0.7f)
            {
                continue;
            }

            var shoulders = Centre(take, set, f, m =>
                m.Segment is BodyRole.ClavicleL or BodyRole.ClavicleR or BodyRole.UpperArmL or BodyRole.UpperArmR
            )
                ?? (l + r) / 2;
            var hips = Centre(take, set, f, m => m.Segment == BodyRole.Pelvis) ?? shoulders - Vector3.UnitY;
            var across = l - r;
            var lean = new Vector3(shoulders.X - hips.X, 0, shoulders.Z - hips.Z).Length();
            var score =
                new Vector3(across.X, 0, across.Z).Length()
                - (MathF.Abs(l.Y - shoulders.Y) + MathF.Abs(r.Y - shoulders.Y))
                - lean
                + (hips.Y * 0.5f)
                + (0.2f * seen / take.MarkerCount);
            score -= Twist(take, set, f, across);
            if (score > bestScore)
            {
                (best, bestScore) = (f, score);
            }
        }

        return best;
    }

    /// <summary>The way the body faces: across from right to left, turned a quarter.</summary>
    public static Vector3? Facing(MarkerTake take, MarkerSet set, int frame)
    {
        Vector3 sum = default;
        var any = false;
        foreach (
            var role in new[] { BodyRole.ThighL, BodyRole.UpperArmL, BodyRole.ShinL, BodyRole.ClavicleL, BodyRole.ForearmL, BodyRole.FootL }
        )
        {
            if (
                Centre(take, set, frame, m => m.Segment == role) is { } l
                && Centre(take, set, frame, m => m.Segment == BodyRoles.Mirror(role)) is { } r
            )
            {
                var d = l - r;
                var flat = new Vector3(d.X, 0, d.Z);
                sum += role is BodyRole.ThighL or BodyRole.UpperArmL ? flat * 3 : flat;
                any = true;
            }
        }

        // +X is the body's left, so forward = left × up.
        return any && sum.LengthSquared() > 1e-6f ? Vector3.Normalize(Vector3.Cross(sum, Vector3.UnitY)) : null;
    }

    public static Vector3? Centre(MarkerTake take, MarkerSet set, int frame, Func<MarkerDefinition, bool> pick)
    {
        Vector3 sum = default;
        var n = 0;
        foreach (var m in set.Markers)
        {
            if (pick(m) && take.IndexOf(m.Name) is >= 0 and var i && MarkerTake.Seen(take[frame, i]))
            {
                sum += take[frame, i];
                n++;
            }
        }

        return n == 0 ? null : sum / n;
    }

    private static Func<MarkerDefinition, bool> Arm(char side) =>
        m =>
            BodyRoles.Side(m.Segment) == side
            && (BodyRoles.Section(m.Segment) == BodySection.Hand || m.Segment is BodyRole.ForearmL or BodyRole.ForearmR);

    /// <summary>How far the arms are turned against the hips, metres.</summary>
    private static float Twist(MarkerTake take, MarkerSet set, int frame, Vector3 across)
    {
        if (
            Centre(take, set, frame, m => m.Segment is BodyRole.ThighL or BodyRole.ShinL) is not { } l
            || Centre(take, set, frame, m => m.Segment is BodyRole.ThighR or BodyRole.ShinR) is not { } r
        )
        {
            return 0;
        }

        var hips = new Vector3(l.X - r.X, 0, l.Z - r.Z);
        var arms = new Vector3(across.X, 0, across.Z);
        return hips.LengthSquared() < 1e-6f || arms.LengthSquared() < 1e-6f
            ? 0
            : 1 - Vector3.Dot(Vector3.Normalize(hips), Vector3.Normalize(arms));
    }
}
