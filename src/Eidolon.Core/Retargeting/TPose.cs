using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>
/// World turns of a skeleton stood in the common T-pose facing +Z. A turn away from this pose means the same on every rig,
/// whatever axes its joints have and however its rest pose holds the arms.
/// </summary>
internal sealed class TPose
{
    private TPose(Quaternion[] turns, Quaternion facing) => (Turns, Facing) = (turns, facing);

    /// <summary>World turn of each joint in the T-pose.</summary>
    public Quaternion[] Turns { get; }

    /// <summary>From the skeleton's own facing to +Z.</summary>
    public Quaternion Facing { get; }

    /// <summary>All of it.</summary>
    public static TPose Of(Skeleton s) => Of(s, _ => true, true);

    /// <summary>The bones that are chosen as in the T-pose, the others as at rest.</summary>
    /// <param name="straight">Is this bone put straight?</param>
    /// <param name="turned">Does the whole turn to face +Z? Otherwise it is straight as it faces.</param>
    public static TPose Of(Skeleton s, Func<BodyRole, bool> straight, bool turned)
    {
        var facing = Quaternion.Conjugate(Rotations.Heading(BodyFacing.Of(s) ?? Vector3.UnitZ));
        var straighten = new Quaternion[s.Count];
        for (var j = 0; j < s.Count; j++)
        {
            var parent = s.Parents[j];
            straighten[j] = parent < 0 ? facing : straighten[parent];
            if (s[j].Role is { } role && straight(role) && Wanted(role) is var (child, direction) && s.IndexOf(child) is >= 0 and var c)
            {
                // From the way this bone points at rest (facing undone) to the way it points in the T-pose.
                var bone = Vector3.Transform(s.RestPositions[c] - s.RestPositions[j], facing);
                if (bone.LengthSquared() > 1e-10f)
                {
                    var turn = Rotations.Between(bone, direction);
                    // Rest poses within a few degrees of the T-pose are what their maker meant: leave them.
                    straighten[j] = Rotations.Log(turn).Length() < 0.14f && Natural(role) ? facing : turn * facing;
                }
            }
        }

        var back = turned ? Quaternion.Identity : Quaternion.Conjugate(facing);
        return new TPose([.. s.RestRotations.Select((r, j) => Quaternion.Normalize(back * straighten[j] * r))], back * facing);
    }

    /// <summary>Legs are rarely dead straight at rest; a small angle there belongs to the body.</summary>
    private static bool Natural(BodyRole role) => role is BodyRole.ThighL or BodyRole.ThighR or BodyRole.ShinL or BodyRole.ShinR;

    private static (BodyRole Child, Vector3 Direction)? Wanted(BodyRole role) =>
        role switch
        {
            BodyRole.UpperArmL => (BodyRole.ForearmL, Vector3.UnitX),
            BodyRole.ForearmL => (BodyRole.HandL, Vector3.UnitX),
            BodyRole.UpperArmR => (BodyRole.ForearmR, -Vector3.UnitX),
            BodyRole.ForearmR => (BodyRole.HandR, -Vector3.UnitX),
            BodyRole.ThighL => (BodyRole.ShinL, -Vector3.UnitY),
            BodyRole.ShinL => (BodyRole.FootL, -Vector3.UnitY),
            BodyRole.ThighR => (BodyRole.ShinR, -Vector3.UnitY),
            BodyRole.ShinR => (BodyRole.FootR, -Vector3.UnitY),
            _ => null,
        };
}
