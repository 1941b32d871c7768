using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>The two poses a cycle is closed between, as the source has them, the later one laid over the earlier one on the floor.</summary>
/// <param name="Roles">Of the joints that are compared.</param>
/// <param name="First">Where they are at the beginning of the cycle, metres.</param>
/// <param name="Last">Where they are a cycle later.</param>
/// <param name="Degrees">How far each one's turn is off.</param>
public sealed record LoopPoses(
    IReadOnlyList<BodyRole> Roles,
    IReadOnlyList<Vector3> First,
    IReadOnlyList<Vector3> Last,
    IReadOnlyList<double> Degrees
)
{
    /// <summary>How far a joint is off, millimetres.</summary>
    public double Millimetres(int k) => (First[k] - Last[k]).Length() * 1000;

    /// <summary>Joints with a role, without fingers and face, at two frames of a motion.</summary>
    public static LoopPoses Of(Motion motion, int start, int end)
    {
        var s = motion.Skeleton;
        int[] joints =
        [
            .. Enumerable
                .Range(0, s.Count)
                .Where(j => s[j].Role is { } role && role != BodyRole.Root && !char.IsDigit(role.ToString()[^1])),
        ];
        var (ra, pa, rb, pb) = (new Quaternion[s.Count], new Vector3[s.Count], new Quaternion[s.Count], new Vector3[s.Count]);
        ForwardKinematics.World(motion, start, ra, pa);
        ForwardKinematics.World(motion, end, rb, pb);
        var fit = default(FloorFit);
        fit.Add([.. joints.Select(j => pa[j])], [.. joints.Select(j => pb[j])]);
        var (turn, move) = fit.Lay();
        return new LoopPoses(
            [.. joints.Select(j => s[j].Role!.Value)],
            [.. joints.Select(j => pa[j])],
            [.. joints.Select(j => Vector3.Transform(pb[j], turn) + move)],
            [.. joints.Select(j => Rotations.Angle(ra[j], Quaternion.Normalize(turn * rb[j])) * 180 / Math.PI)]
        );
    }
}
