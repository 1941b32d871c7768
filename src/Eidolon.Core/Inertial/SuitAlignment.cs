using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Inertial;

/// <summary>
/// Which way round each sensor is strapped on, and which way the wearer faced: in the T-pose every bone is turned as at rest, and from T to A the
/// arms go down about the line the wearer faces along.
/// </summary>
internal sealed class SuitAlignment
{
    /// <summary>Arms that go down by less than this on the whole say too little about where the wearer faces, degrees.</summary>
    private const double LeastTurn = 15;

    private readonly Quaterniond _facing;
    private readonly Quaterniond[] _mounts;

    private SuitAlignment(Quaterniond facing, Quaterniond[] mounts) => (_facing, _mounts) = (facing, mounts);

    /// <exception cref="RefusedException">From T-pose to A-pose the arms hardly move, or not to opposite sides.</exception>
    public static SuitAlignment Find(IReadOnlyList<SensorOrientation> sensors, SuitPoses poses)
    {
        Vector3d forward = default;
        var mounts = new Quaterniond[sensors.Count];
        for (var s = 0; s < sensors.Count; s++)
        {
            var t = Mean(sensors[s].Turns, poses.TPose);
            mounts[s] = t;
            var role = SuitBones.All[s];
            if (BodyRoles.Stem(role) is "UpperArm" or "Forearm")
            {
                var turn = (Mean(sensors[s].Turns, poses.APose) * t.Conjugate()).Log();
                forward += turn * (BodyRoles.Side(role) == 'R' ? 1 : -1);
            }
        }

        // Four bones of the arms.
        var angle = Math.Sqrt((forward.X * forward.X) + (forward.Z * forward.Z)) / 4 * 180 / Math.PI;
        if (angle < LeastTurn)
        {
            throw new RefusedException(
                $"from T-pose to A-pose the arms go down by {angle:0}° only (at least {LeastTurn:0}° are needed to tell where the wearer faces): frames "
                    + $"{poses.TPose.Start}–{poses.TPose.End} and {poses.APose.Start}–{poses.APose.End}"
            );
        }

        var facing = Quaterniond.Exp(0, -Math.Atan2(forward.X, forward.Z), 0);
        return new SuitAlignment(facing, mounts);
    }

    /// <summary>The bone's turn in the world: identity in the T-pose, facing +Z.</summary>
    public Quaterniond Bone(int sensor, Quaterniond turn) => _facing * turn * _mounts[sensor].Conjugate() * _facing.Conjugate();

    /// <summary>A vector of the sensors' world, whose +Z is the field's heading, in the world of the motion.</summary>
    public Vector3d World(Vector3d v) => _facing.ToMatrix() * v;

    /// <summary>The mean turn of a range: turns that are near each other, added and made unit.</summary>
    private static Quaterniond Mean(Quaterniond[] turns, FrameRange range)
    {
        var first = turns[range.Start];
        var (x, y, z, w) = (0.0, 0.0, 0.0, 0.0);
        for (var f = range.Start; f <= range.End; f++)
        {
            var q = turns[f];
            var sign = (q.X * first.X) + (q.Y * first.Y) + (q.Z * first.Z) + (q.W * first.W) < 0 ? -1 : 1;
            (x, y, z, w) = (x + (sign * q.X), y + (sign * q.Y), z + (sign * q.Z), w + (sign * q.W));
        }

        return new Quaterniond(x, y, z, w).Normalized();
    }
}
