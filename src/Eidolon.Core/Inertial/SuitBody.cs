using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Inertial;

/// <summary>From turned bones to a posed skeleton: what has no sensor lies between its neighbours.</summary>
internal static class SuitBody
{
    /// <summary>A toe joint bends up to this, degrees: the ball of the foot stays on the floor while the heel rises.</summary>
    private const float MostToes = 55;

    /// <summary>A posed body over the origin; local turns on a skeleton whose rest turns are identity and whose first joint is the pelvis.</summary>
    /// <param name="bones">World turns, [frame × sensors + sensor].</param>
    public static Motion Pose(Skeleton body, double rate, Quaternion[] bones)
    {
        var sensors = SuitBones.All.Count;
        var frames = bones.Length / sensors;
        var motion = new Motion(body, rate, frames);
        var plan = Plan(body);
        var world = new Quaternion[body.Count];
        for (var f = 0; f < frames; f++)
        {
            World(body, plan, bones.AsSpan(f * sensors, sensors), world);
            for (var j = 0; j < body.Count; j++)
            {
                motion.Translations[(f * body.Count) + j] = body[j].Offset;
            }

            ForwardKinematics.Local(body, world, motion.RotationsAt(f));
        }

        return motion;
    }

    /// <summary>World turns of all joints at one moment.</summary>
    /// <param name="plan">Of <see cref="Plan"/>.</param>
    /// <param name="own">World turns of the bones that wear a sensor.</param>
    public static void World(
        Skeleton body,
        (int A, int B, float Share, bool Toes)[] plan,
        ReadOnlySpan<Quaternion> own,
        Span<Quaternion> world
    )
    {
        for (var j = 0; j < body.Count; j++)
        {
            var (a, b, share, toes) = plan[j];
            world[j] =
                toes ? Toes(own[a])
                : a < 0 ? world[body.Parents[j]]
                : a == b ? own[a]
                : Rotations.Slerp(own[a], own[b], share);
        }
    }

    /// <summary>For each joint the two sensors it lies between and where; both the same where it has one of its own, −1 where it follows its parent.</summary>
    public static (int A, int B, float Share, bool Toes)[] Plan(Skeleton body)
    {
        var spine = BodyRoles.Spine.Where(r => body.IndexOf(r) >= 0 && r != BodyRole.Chest).ToList();
        var neck = new[] { BodyRole.NeckLower, BodyRole.Neck }.Where(r => body.IndexOf(r) >= 0).ToList();
        int At(BodyRole r) => SuitBones.IndexOf(r);
        return
        [
            .. body.Joints.Select(j =>
                j.Role is not { } role ? (-1, -1, 0f, false)
                : At(role) is >= 0 and var s ? (s, s, 0f, false)
                : spine.IndexOf(role) is >= 0 and var i ? (At(BodyRole.Pelvis), At(BodyRole.Chest), (i + 1f) / (spine.Count + 1), false)
                : neck.IndexOf(role) is >= 0 and var n ? (At(BodyRole.Chest), At(BodyRole.Head), (n + 1f) / (neck.Count + 1), false)
                : role == BodyRole.ToesL ? (At(BodyRole.FootL), At(BodyRole.FootL), 0f, true)
                : role == BodyRole.ToesR ? (At(BodyRole.FootR), At(BodyRole.FootR), 0f, true)
                : (-1, -1, 0f, false)
            ),
        ];
    }

    /// <summary>Toes stay level, seen along the foot, as far as they bend.</summary>
    private static Quaternion Toes(Quaternion foot)
    {
        var ahead = Vector3.Transform(Vector3.UnitZ, foot);
        var down = MathF.Asin(Math.Clamp(-ahead.Y, -1, 1));
        var bend = Math.Clamp(down, 0, MostToes * MathF.PI / 180);
        return foot * Rotations.AboutAxis(0, -bend);
    }
}
