using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>Puts a rest pose right: turned to face +Z, arms level, legs under the hips, standing as high as it stood.</summary>
public static class RestStraightening
{
    /// <summary>The same skeleton at rest in the T-pose; no bone changes its length.</summary>
    /// <param name="skeleton">With all roles that are needed.</param>
    public static Skeleton Straighten(Skeleton skeleton)
    {
        var t = TPose.Of(skeleton);
        var joints = new Joint[skeleton.Count];
        for (var j = 0; j < joints.Length; j++)
        {
            var parent = skeleton.Parents[j];
            joints[j] = skeleton[j] with
            {
                RestRotation = Quaternion.Normalize(parent < 0 ? t.Turns[j] : Quaternion.Conjugate(t.Turns[parent]) * t.Turns[j]),
                Offset = parent < 0 ? Vector3.Transform(skeleton[j].Offset, t.Facing) : skeleton[j].Offset,
            };
        }

        // Straight legs reach farther down.
        var lower = skeleton.RestPositions.Min(p => p.Y) - new Skeleton(joints).RestPositions.Min(p => p.Y);
        for (var j = 0; j < joints.Length; j++)
        {
            joints[j] = skeleton.Parents[j] < 0 ? joints[j] with { Offset = joints[j].Offset + new Vector3(0, lower, 0) } : joints[j];
        }

        return new Skeleton(joints);
    }

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
