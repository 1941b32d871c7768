using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Solving;

/// <summary>Builds the solvable model of a performer and turns its poses into motion samples.</summary>
public static class BodyModel
{
    /// <summary>The model of a measured performer.</summary>
    public static ArticulatedModel Create(Performer performer)
    {
        var s = performer.Skeleton;
        var model = new ArticulatedModel(
            [.. s.Joints.Select(j => j.Parent)],
            [.. s.Joints.Select(j => j.Parent < 0 ? default : (Vector3d)j.Offset)],
            [.. s.Joints.Select(j => BodyFreedoms.Of(j.Role ?? BodyRole.Root))],
            [.. performer.Markers.Select(m => m.Joint)],
            [.. performer.Markers.Select(m => (Vector3d)m.Offset)]
        );
        for (var i = 0; i < model.MarkerCount; i++)
        {
            model.MarkerWeights[i] = performer.Markers[i].Weight;
        }

        return model;
    }

    /// <summary>The nearest role that the skeleton has, going towards the root.</summary>
    public static int CarrierOf(Skeleton skeleton, BodyRole segment)
    {
        if (segment == BodyRole.SpineMid && skeleton.IndexOf(segment) < 0)
        {
            segment = BodyRole.SpineUpper;
        }

        for (BodyRole? role = segment; role is { } r; role = BodyRoles.Parent(r))
        {
            if (skeleton.IndexOf(r) is >= 0 and var j)
            {
                return j;
            }
        }

        return skeleton.IndexOf(BodyRole.Pelvis);
    }

    /// <summary>A pose with the whole body at rest, its pelvis at a place and heading.</summary>
    public static ModelPose RestPose(ArticulatedModel model, Vector3d pelvis, Quaterniond turn)
    {
        var pose = new ModelPose(model);
        (pose.Values[0], pose.Values[1], pose.Values[2]) = (pelvis.X, pelvis.Y, pelvis.Z);
        pose.Turns[0] = turn;
        return pose;
    }

    /// <summary>Writes a pose as one frame of a motion on the performer's skeleton.</summary>
    public static void WriteFrame(ArticulatedModel model, ModelPose pose, Motion motion, int frame)
    {
        var r = motion.RotationsAt(frame);
        var t = motion.TranslationsAt(frame);
        for (var j = 0; j < r.Length; j++)
        {
            r[j] = pose.TurnOf(model, j).ToSingle();
            t[j] = j == 0 ? new Vector3((float)pose.Values[0], (float)pose.Values[1], (float)pose.Values[2]) : motion.Skeleton[j].Offset;
        }
    }
}
