using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>Where a palm is and how it is turned, frame by frame, so that it means the same on every rig.</summary>
internal sealed class PalmPath
{
    /// <summary>From the wrist to the middle of the palm, as a share of the forearm.</summary>
    private const float Reach = 0.35f;

    /// <exception cref="RefusedException">The skeleton has no such hand.</exception>
    public PalmPath(Motion motion, BodyRole hand, int start, int end)
    {
        var s = motion.Skeleton;
        var joint = s.IndexOf(hand) is >= 0 and var j
            ? j
            : throw new RefusedException($"there is no {(hand == BodyRole.HandL ? "left" : "right")} hand");
        var pose = TPose.Of(s);
        var forearm = s.IndexOf(hand == BodyRole.HandL ? BodyRole.ForearmL : BodyRole.ForearmR);
        var length = forearm >= 0 ? Vector3.Distance(s.RestPositions[joint], s.RestPositions[forearm]) : 0;
        var reach = new Vector3((hand == BodyRole.HandL ? 1 : -1) * Reach * length, 0, 0);
        var back = Quaternion.Conjugate(pose.Turns[joint]);
        (Start, Places, Turns) = (start, new Vector3[end - start + 1], new Quaternion[end - start + 1]);
        var turns = new Quaternion[s.Count];
        var places = new Vector3[s.Count];
        for (var f = start; f <= end; f++)
        {
            ForwardKinematics.World(motion, f, turns, places);
            var turn = Quaternion.Normalize(turns[joint] * back);
            Turns[f - start] = turn;
            Places[f - start] = places[joint] + Vector3.Transform(reach, turn);
        }
    }

    private int Start { get; }

    private Vector3[] Places { get; }

    private Quaternion[] Turns { get; }

    /// <summary>The middle of the palm, metres.</summary>
    public Vector3 Place(int frame) => Places[frame - Start];

    /// <summary>Its turn away from the common T-pose.</summary>
    public Quaternion Turn(int frame) => Turns[frame - Start];
}
