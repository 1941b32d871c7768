using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Labelling;

/// <summary>
/// Postures that a reference take seldom shows and people still begin takes in: crouching, on all fours, kneeling, sitting, lying. They are
/// places to look from only; the fit does the rest.
/// </summary>
internal static class Postures
{
    /// <summary>
    /// Degrees, forward bend positive: pelvis, whole spine, thigh raised, knee bent, upper arm raised forward, elbow bent; and roll about the
    /// long axis of the lying body.
    /// </summary>
    private static readonly (double Pelvis, double Spine, double Thigh, double Knee, double Arm, double Elbow, double Roll)[] Known =
    [
        (40, 45, 100, 125, 70, 20, 0),
        (55, 60, 110, 130, 100, 10, 0),
        (20, 30, 105, 130, 40, 60, 0),
        (60, 20, 70, 75, 60, 10, 0),
        (80, 10, 85, 90, 85, 5, 0),
        (75, 25, 110, 120, 110, 15, 0),
        (5, 5, 10, 100, 10, 20, 0),
        (0, 10, 85, 90, 25, 40, 0),
        (88, 0, 5, 5, 10, 10, 0),
        (-88, 0, 5, 5, 10, 10, 0),
        (88, 10, 30, 40, 30, 40, 90),
        (88, 10, 30, 40, 30, 40, -90),
    ];

    public static IEnumerable<ModelPose> Of(Performer performer, ArticulatedModel model)
    {
        var skeleton = performer.Skeleton;
        var kinematics = new ModelKinematics(model);
        foreach (var p in Known)
        {
            var pose = new ModelPose(model);
            pose.Turns[0] = About(0, p.Pelvis) * About(1, p.Roll);
            var spines = Enumerable
                .Range(0, skeleton.Count)
                .Count(j => skeleton[j].Role is { } r && BodyRoles.Stem(r).StartsWith("Spine", StringComparison.Ordinal));
            for (var j = 1; j < skeleton.Count; j++)
            {
                if (skeleton[j].Role is not { } role)
                {
                    continue;
                }

                var part = BodyRoles.Stem(role);
                var side = BodyRoles.Side(role) == 'L' ? 1 : -1;
                if (part.StartsWith("Spine", StringComparison.Ordinal))
                {
                    Bend(model, pose, j, p.Spine / Math.Max(1, spines));
                }
                else if (part == "Thigh")
                {
                    Bend(model, pose, j, -p.Thigh);
                }
                else if (part == "Shin")
                {
                    Bend(model, pose, j, p.Knee);
                }
                else if (part == "UpperArm" && model.Freedoms[j].Ball)
                {
                    // From the T-pose: down to the side first, then forward.
                    pose.Turns[j] = About(0, -p.Arm) * About(2, -75 * side);
                }
                else if (part is "Neck" or "Head")
                {
                    Bend(model, pose, j, -(p.Pelvis + p.Spine) / 4);
                }
            }

            kinematics.Update(pose, false);
            var low = double.PositiveInfinity;
            foreach (var m in kinematics.Markers)
            {
                low = Math.Min(low, m.Y);
            }

            pose.Values[1] -= low - 0.03;
            yield return pose;
        }
    }

    private static Quaterniond About(int axis, double degrees)
    {
        var a = degrees * Math.PI / 180;
        return axis switch
        {
            0 => Quaterniond.Exp(a, 0, 0),
            1 => Quaterniond.Exp(0, a, 0),
            _ => Quaterniond.Exp(0, 0, a),
        };
    }

    private static void Bend(ArticulatedModel model, ModelPose pose, int joint, double degrees)
    {
        if (model.Freedoms[joint].Ball)
        {
            pose.Turns[joint] = About(0, degrees);
        }
        else if (model.Freedoms[joint].Axes.ToList().IndexOf(0) is >= 0 and var k)
        {
            pose.Values[model.FirstDof[joint] + k] = degrees * Math.PI / 180;
        }
    }
}
