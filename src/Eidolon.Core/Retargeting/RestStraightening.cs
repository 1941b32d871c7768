using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>Puts a rest pose right, wholly or as chosen: turned to face +Z, arms level, legs under the hips, both sides alike, on the floor.</summary>
public static class RestStraightening
{
    private static readonly RestRemedy[] Pose = [RestRemedy.TurnToFace, RestRemedy.ArmL, RestRemedy.ArmR, RestRemedy.Legs];

    /// <summary>The skeleton at rest in the T-pose, with every remedy that its rest check offers.</summary>
    /// <param name="skeleton">With all roles that are needed.</param>
    public static Skeleton Straighten(Skeleton skeleton) =>
        Apply(skeleton, RestCheck.Check(skeleton).Reasons.Select(r => r.Remedy).OfType<RestRemedy>().Concat(Pose).ToHashSet());

    /// <summary>The skeleton with some remedies taken.</summary>
    /// <param name="skeleton">With all roles that are needed.</param>
    /// <param name="soles">How far the figure reaches below its lowest joint, metres; for <see cref="RestRemedy.Floor"/>.</param>
    public static Skeleton Apply(Skeleton skeleton, IReadOnlySet<RestRemedy> remedies, float soles = 0)
    {
        var s = remedies.Contains(RestRemedy.Alike) ? Alike(skeleton) : skeleton;
        s = remedies.Contains(RestRemedy.Collarbones) ? Levelled(s) : s;
        bool Straight(BodyRole role) =>
            BodyRoles.Section(role) switch
            {
                BodySection.Leg => remedies.Contains(RestRemedy.Legs),
                _ => remedies.Contains(BodyRoles.Side(role) == 'L' ? RestRemedy.ArmL : RestRemedy.ArmR),
            };

        var t = TPose.Of(s, Straight, remedies.Contains(RestRemedy.TurnToFace));
        var posed = Posed(s, t.Turns, t.Facing);
        // Straight legs reach farther down: the figure stands as high as it stood, or on the floor.
        var lowest = posed.RestPositions.Min(p => p.Y);
        var wanted = remedies.Contains(RestRemedy.Floor) ? soles : skeleton.RestPositions.Min(p => p.Y);
        return Raised(posed, wanted - lowest);
    }

    /// <summary>Limbs of both sides with the mean of their lengths.</summary>
    private static Skeleton Alike(Skeleton s)
    {
        var joints = s.Joints.ToArray();
        foreach (var role in Enum.GetValues<BodyRole>().Where(r => BodyRoles.Side(r) == 'L' && BodyRoles.EndsLongBone(r)))
        {
            var (left, right) = (Bone(s, role), Bone(s, BodyRoles.Mirror(role)));
            if (left is not { } l || right is not { } r)
            {
                continue;
            }

            foreach (var (joint, share) in new[] { (l, (l.Long + r.Long) / 2 / l.Long), (r, (l.Long + r.Long) / 2 / r.Long) })
            {
                foreach (var j in joint.Path)
                {
                    joints[j] = joints[j] with { Offset = joints[j].Offset * share };
                }
            }
        }

        return new Skeleton(joints);
    }

    /// <summary>The joints whose offsets make the bone that ends at a role, and how long it is, metres.</summary>
    private static (List<int> Path, float Long)? Bone(Skeleton s, BodyRole role)
    {
        if (BodyRoles.Parent(role) is not { } above || s.IndexOf(above) < 0 || s.IndexOf(role) < 0)
        {
            return null;
        }

        var path = new List<int>();
        for (var j = s.IndexOf(role); j >= 0 && j != s.IndexOf(above); j = s.Parents[j])
        {
            path.Add(j);
        }

        var length = (s.RestPositions[s.IndexOf(role)] - s.RestPositions[s.IndexOf(above)]).Length();
        return length > 1e-5f ? (path, length) : null;
    }

    /// <summary>Both collarbones at the mean of their slopes; the arms keep where they point.</summary>
    private static Skeleton Levelled(Skeleton s)
    {
        if (RestCheck.Slope(s, 'L') is not { } left || RestCheck.Slope(s, 'R') is not { } right)
        {
            return s;
        }

        var (turns, mean) = (s.RestRotations.ToArray(), (left + right) / 2 * MathF.PI / 180);
        foreach (var (collar, arm) in new[] { (BodyRole.ClavicleL, BodyRole.UpperArmL), (BodyRole.ClavicleR, BodyRole.UpperArmR) })
        {
            var (c, a) = (s.IndexOf(collar), s.IndexOf(arm));
            var bone = s.RestPositions[a] - s.RestPositions[c];
            var level = bone with { Y = 0 };
            if (level.LengthSquared() < 1e-10f)
            {
                continue;
            }

            var turn = Rotations.Between(bone, (Vector3.Normalize(level) * MathF.Cos(mean)) + (Vector3.UnitY * MathF.Sin(mean)));
            var below = s.Branch(a).ToHashSet();
            foreach (var j in s.Branch(c).Where(j => !below.Contains(j)))
            {
                turns[j] = turn * turns[j];
            }
        }

        return Posed(s, turns, Quaternion.Identity);
    }

    /// <summary>The skeleton at rest in other world turns.</summary>
    private static Skeleton Posed(Skeleton s, Quaternion[] turns, Quaternion facing)
    {
        var joints = new Joint[s.Count];
        for (var j = 0; j < joints.Length; j++)
        {
            var parent = s.Parents[j];
            joints[j] = s[j] with
            {
                RestRotation = Quaternion.Normalize(parent < 0 ? turns[j] : Quaternion.Conjugate(turns[parent]) * turns[j]),
                Offset = parent < 0 ? Vector3.Transform(s[j].Offset, facing) : s[j].Offset,
            };
        }

        return new Skeleton(joints);
    }

    /// <summary>The same skeleton higher by so many metres.</summary>
    public static Skeleton Raised(Skeleton s, float by) =>
        new(s.Joints.Select(j => j.Parent < 0 ? j with { Offset = j.Offset + new Vector3(0, by, 0) } : j));

    /// <summary>The same rest pose told by places alone: no joint is turned at rest, as formats without rest turns have it.</summary>
    public static Skeleton Unturned(Skeleton skeleton) =>
        new(
            skeleton.Joints.Select(
                (joint, j) =>
                    joint with
                    {
                        RestRotation = Quaternion.Identity,
                        Offset = skeleton.RestPositions[j] - (joint.Parent < 0 ? Vector3.Zero : skeleton.RestPositions[joint.Parent]),
                        EndSite = joint.EndSite is { } e ? Vector3.Transform(e, skeleton.RestRotations[j]) : null,
                    }
            )
        );
}
