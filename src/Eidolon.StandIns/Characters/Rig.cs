using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.Characters;

/// <summary>Gives a body of roles another rig's habits: names, joint axes, extra joints.</summary>
internal static class Rig
{
    /// <param name="boneAxis">Which local axis (0 X, 1 Y, 2 Z) runs along each bone.</param>
    public static Skeleton Dress(Skeleton body, Func<BodyRole, string> name, int boneAxis)
    {
        var world = new Quaternion[body.Count];
        for (var j = 0; j < body.Count; j++)
        {
            var child = body.Children(j).FirstOrDefault(-1);
            var along = child >= 0 ? body.RestPositions[child] - body.RestPositions[j] : body[j].EndSite ?? Vector3.UnitY;
            var turn = Rotations.Between(Rotations.Axis(boneAxis), along);
            // Some riggers also roll the bone; a quarter turn here shows that it does not matter.
            world[j] = Quaternion.Normalize(turn * Rotations.AboutAxis(boneAxis, boneAxis == 0 ? Math.PI / 2 : 0));
        }

        return new Skeleton(
            body.Joints.Select(
                (joint, j) =>
                {
                    var p = joint.Parent;
                    var up = p < 0 ? Quaternion.Identity : Quaternion.Conjugate(world[p]);
                    return new Joint(name(joint.Role!.Value), p, p < 0 ? joint.Offset : Vector3.Transform(joint.Offset, up))
                    {
                        RestRotation = Quaternion.Normalize(up * world[j]),
                        Role = joint.Role,
                    };
                }
            )
        );
    }

    /// <summary>Puts a new joint between a joint and its parent's end: a share of the way to the next role.</summary>
    public static Skeleton Insert(Skeleton body, BodyRole role, BodyRole parent, BodyRole towards, float share, bool between)
    {
        var joints = body.Joints.ToList();
        var p = body.IndexOf(parent);
        var t = body.IndexOf(towards);
        var offset = body[t].Offset * share;
        var added = new Joint(role.ToString(), p, offset) { Role = role, EndSite = offset };
        // New joints go right after their parent, so every later index moves by one.
        joints.Insert(p + 1, added);
        for (var j = p + 2; j < joints.Count; j++)
        {
            var old = joints[j];
            var parentIndex = old.Parent > p ? old.Parent + 1 : old.Parent;
            joints[j] =
                j - 1 == t && between ? old with { Parent = p + 1, Offset = old.Offset - offset } : old with { Parent = parentIndex };
        }

        return new Skeleton(joints);
    }
}
