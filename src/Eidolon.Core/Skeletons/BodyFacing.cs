using System.Numerics;

namespace Eidolon.Core.Skeletons;

/// <summary>Where a body faces at rest: ahead of the line from its right hip to its left, or from shoulder to shoulder where the hips are one point.</summary>
public static class BodyFacing
{
    /// <summary>Joints nearer to each other than this tell no side, metres.</summary>
    private const float Apart = 1e-4f;

    /// <summary>Level unit direction; null where no joints tell left from right.</summary>
    public static Vector3? Of(Skeleton skeleton)
    {
        foreach (var (l, r) in new[] { (BodyRole.ThighL, BodyRole.ThighR), (BodyRole.UpperArmL, BodyRole.UpperArmR) })
        {
            if (skeleton.IndexOf(l) is >= 0 and var a && skeleton.IndexOf(r) is >= 0 and var b)
            {
                var left = (skeleton.RestPositions[a] - skeleton.RestPositions[b]) * new Vector3(1, 0, 1);
                if (left.Length() > Apart)
                {
                    return Vector3.Normalize(Vector3.Cross(left, Vector3.UnitY));
                }
            }
        }

        return null;
    }
}
