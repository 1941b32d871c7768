using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Solving;

/// <summary>
/// A measured body put right by hand: a joint's centre is moved within the body that stands in its markers, and what the markers say of it is told
/// at once. The solver turns the joints by itself; a person says where they are.
/// </summary>
public static class BodyByHand
{
    /// <summary>Farther than this from where the bone runs a long bone's end is not moved: then it is the joint before it that is to turn. Metres.</summary>
    public const float MostAside = 0.03f;

    /// <summary>Bones do not get shorter than this, metres.</summary>
    private const float Shortest = 0.02f;

    /// <summary>One move of a joint's centre.</summary>
    /// <param name="By">In the T-pose facing +Z, metres.</param>
    /// <param name="Alike">The other side moves as its mirror.</param>
    public sealed record Move(BodyRole Role, Vector3 By, bool Alike);

    /// <summary>How well a body stands in its markers.</summary>
    /// <param name="Mean">Mean distance of the markers from where it carries them, metres.</param>
    /// <param name="Worst">Markers and their mean distances, the farthest first.</param>
    /// <param name="Poses">One a frame that was asked for.</param>
    public sealed record Standing(double Mean, IReadOnlyList<(string Marker, double Metres)> Worst, IReadOnlyList<ModelPose> Poses);

    /// <summary>The body with moves made in their order.</summary>
    /// <returns>Also what a person should know: where a move was cut short, and what to turn instead.</returns>
    /// <exception cref="RefusedException">It has no such joint.</exception>
    public static (Performer Performer, IReadOnlyList<string> Said) With(Performer performer, IEnumerable<Move> moves)
    {
        var said = new List<string>();
        var body = performer;
        foreach (var move in moves)
        {
            body = Moved(body, performer, move.Role, move.By, said);
            if (move.Alike && BodyRoles.Side(move.Role) != 'C')
            {
                body = Moved(body, performer, BodyRoles.Mirror(move.Role), move.By * new Vector3(-1, 1, 1), said);
            }
        }

        return (body, [.. said.Distinct()]);
    }

    /// <summary>Stands a body in its markers at some frames.</summary>
    /// <param name="start">Poses of the same frames to begin with, of this body or of one much like it.</param>
    public static Standing Stand(Performer performer, MarkerTake take, IReadOnlyList<int> frames, IReadOnlyList<ModelPose> start)
    {
        var model = BodyModel.Create(performer);
        var solver = new FrameSolver(model);
        var index = performer.Markers.Select(m => take.IndexOf(m.Name)).ToArray();
        var targets = new Vector3d[index.Length];
        var (sums, counts) = (new double[index.Length], new int[index.Length]);
        var poses = new ModelPose[frames.Count];
        for (var k = 0; k < frames.Count; k++)
        {
            for (var i = 0; i < index.Length; i++)
            {
                targets[i] = index[i] < 0 ? (Vector3d)MarkerTake.Hidden : take[frames[k], index[i]];
            }

            poses[k] = new ModelPose(model);
            poses[k].CopyFrom(start[k]);
            solver.Solve(poses[k], targets);
            for (var i = 0; i < index.Length; i++)
            {
                if (!double.IsNaN(targets[i].X))
                {
                    var e = solver.Markers[i] - targets[i];
                    (sums[i], counts[i]) = (sums[i] + Math.Sqrt(Vector3d.Dot(e, e)), counts[i] + 1);
                }
            }
        }

        return new Standing(
            sums.Sum() / Math.Max(1, counts.Sum()),
            [
                .. performer
                    .Markers.Select((m, i) => (m.Name, counts[i] == 0 ? double.NaN : sums[i] / counts[i]))
                    .Where(m => !double.IsNaN(m.Item2))
                    .OrderByDescending(m => m.Item2),
            ],
            poses
        );
    }

    /// <summary>World places and turns of all joints in a pose.</summary>
    public static (Vector3[] Places, Quaternion[] Turns) World(Performer performer, ModelPose pose)
    {
        var model = BodyModel.Create(performer);
        var motion = new Motion(performer.Skeleton, 1, 1);
        BodyModel.WriteFrame(model, pose, motion, 0);
        var (turns, places) = (new Quaternion[performer.Skeleton.Count], new Vector3[performer.Skeleton.Count]);
        ForwardKinematics.World(motion, 0, turns, places);
        return (places, turns);
    }

    /// <summary>One centre moved: what hangs on it, and the markers of its bone, stay where they are in the T-pose.</summary>
    private static Performer Moved(Performer performer, Performer measured, BodyRole role, Vector3 by, List<string> said)
    {
        var s = performer.Skeleton;
        var joint = s.IndexOf(role);
        if (joint < 0)
        {
            throw new RefusedException($"the body has no joint '{role}'");
        }

        by = Allowed(s, measured.Skeleton, joint, by, said);
        var joints = s.Joints.ToArray();
        joints[joint] = joints[joint] with { Offset = joints[joint].Offset + by };
        for (var k = joint + 1; k < joints.Length; k++)
        {
            if (joints[k].Parent == joint)
            {
                joints[k] = joints[k] with { Offset = joints[k].Offset - by };
            }
        }

        return performer with
        {
            Skeleton = new Skeleton(joints),
            Markers = [.. performer.Markers.Select(m => m.Joint == joint ? m with { Offset = m.Offset - by } : m)],
        };
    }

    /// <summary>The end of a long bone moves along it freely, and aside only as far as a measuring errs.</summary>
    private static Vector3 Allowed(Skeleton s, Skeleton measured, int joint, Vector3 by, List<string> said)
    {
        if (!BodyRoles.EndsLongBone(s[joint].Role))
        {
            return by;
        }

        var (was, now) = (measured[joint].Offset, s[joint].Offset + by);
        var along = Vector3.Normalize(was);
        var length = Vector3.Dot(now, along);
        var aside = now - (along * length);
        if (aside.Length() > MostAside)
        {
            var parent = s[s[joint].Parent].Role!.Value;
            said.Add(
                $"that far aside it is not the {Word(s[joint].Role!.Value)} that is elsewhere but the {Word(parent)} that turns: the solver turns it by itself"
            );
            aside *= MostAside / aside.Length();
        }

        if (length < Shortest)
        {
            said.Add($"the bone before the {Word(s[joint].Role!.Value)} cannot be shorter than {Shortest * 100:0} cm");
            length = Shortest;
        }

        return (along * length) + aside - s[joint].Offset;
    }

    private static string Word(BodyRole role) =>
        BodyRoles.Stem(role) switch
        {
            "UpperArm" => "shoulder",
            "Forearm" => "elbow",
            "Hand" => "wrist",
            "Thigh" => "hip",
            "Shin" => "knee",
            "Foot" => "ankle",
            var other => other.ToLowerInvariant(),
        };
}
