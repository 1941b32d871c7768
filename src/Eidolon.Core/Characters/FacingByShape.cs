using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters;

/// <summary>Where a body without names looks: toes, thumbs, eyes and knees point ahead. What none of them tells is not sure.</summary>
internal static class FacingByShape
{
    /// <summary>A sign that says less is none, as a share of what it is measured by.</summary>
    private const float Faint = 0.04f;

    /// <summary>Ahead, level, exactly across the hips.</summary>
    /// <param name="sure">Something told front from back.</param>
    public static Vector3 Of(ShapeTree tree, int footA, int footB, int tipA, int tipB, int pelvis, int chest, out bool sure)
    {
        var p = tree.Skeleton.RestPositions;
        var across = (p[footA] - p[footB]) with { Y = 0 };
        var ahead = across.LengthSquared() < 1e-10f ? Vector3.UnitZ : Vector3.Normalize(Vector3.Cross(across, Vector3.UnitY));
        // An axis of the file where the hips lie along one: +Z ahead rather than −Z, where nothing tells.
        ahead = ahead.Z < -1e-3f || (MathF.Abs(ahead.Z) <= 1e-3f && ahead.X < 0) ? -ahead : ahead;
        foreach (
            var sign in new[]
            {
                Toes(tree, footA, footB, pelvis, ahead),
                Thumbs(tree, tipA, tipB, chest, ahead),
                Eyes(tree, chest, ahead),
                Knees(tree, footA, footB, pelvis, ahead),
            }
        )
        {
            if (MathF.Abs(sign) > Faint)
            {
                sure = true;
                return ahead * MathF.Sign(sign);
            }
        }

        sure = false;
        return ahead;
    }

    /// <summary>From ankles to toes, against the length of the feet.</summary>
    private static float Toes(ShapeTree tree, int footA, int footB, int pelvis, Vector3 ahead)
    {
        var p = tree.Skeleton.RestPositions;
        var (sum, length) = (0f, 1e-6f);
        foreach (var tip in new[] { footA, footB })
        {
            var chain = tree.Path(pelvis, tip);
            for (var k = chain.Count - 1; k > 0; k--)
            {
                var d = p[chain[k]] - p[chain[k - 1]];
                var flat = d with { Y = 0 };
                if (
                    flat.Length() <= 0.6f * d.Length()
                    && (MathF.Abs(d.Y) >= 0.25f * (p[pelvis].Y - p[tip].Y) || flat.Length() <= 0.3f * d.Length())
                )
                {
                    break;
                }

                sum += Vector3.Dot(flat, ahead);
                length += flat.Length();
            }
        }

        return sum / length;
    }

    /// <summary>Thumbs lie ahead of the fingers, arms out, half down or down.</summary>
    private static float Thumbs(ShapeTree tree, int tipA, int tipB, int chest, Vector3 ahead)
    {
        float Of(int tip) =>
            tree.Path(chest, tip).Where(j => tree.Branches(j) > 2).DefaultIfEmpty(-1).Last() is >= 0 and var hand
                ? FingersByShape.ThumbAhead(tree.Skeleton, hand, ahead)
                : 0;
        return Of(tipA) + Of(tipB);
    }

    /// <summary>Eyes and jaw lie ahead of the head's joint, against their distance from it.</summary>
    private static float Eyes(ShapeTree tree, int chest, Vector3 ahead)
    {
        var p = tree.Skeleton.RestPositions;
        var (sum, length) = (0f, 1e-6f);
        foreach (var leaf in tree.Leaves.Where(l => tree.Below(chest, l)))
        {
            var head = tree.Skeleton.Parents[leaf];
            if (head < 0 || tree.Branches(head) < 2 || p[leaf].Y < p[chest].Y || tree.Path(chest, leaf).Count > 6)
            {
                continue;
            }

            var d = p[leaf] - p[head];
            // What hangs at a hand is no eye: eyes are near the middle.
            if (((p[head] - p[chest]) with { Y = 0 }).Length() < 0.5f * MathF.Abs(p[head].Y - p[chest].Y))
            {
                sum += Vector3.Dot(d, ahead);
                length += d.Length();
            }
        }

        return sum / length;
    }

    /// <summary>Knees stand ahead of the line from hip to ankle, against the leg's length.</summary>
    private static float Knees(ShapeTree tree, int footA, int footB, int pelvis, Vector3 ahead)
    {
        var p = tree.Skeleton.RestPositions;
        var sum = 0f;
        foreach (var tip in new[] { footA, footB })
        {
            var chain = tree.Path(pelvis, tip).Where(j => j != pelvis).ToList();
            if (chain.Count < 3)
            {
                continue;
            }

            var (hip, ankle) = (p[chain[0]], p[chain[^1]]);
            var leg = ankle - hip;
            foreach (var j in chain.Skip(1).SkipLast(1))
            {
                var along = Vector3.Dot(p[j] - hip, leg) / leg.LengthSquared();
                sum += Vector3.Dot(p[j] - (hip + (along * leg)), ahead) / leg.Length();
            }
        }

        return sum;
    }
}
