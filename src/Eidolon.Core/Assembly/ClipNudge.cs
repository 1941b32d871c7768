using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>How far a clip is put from the place where it meets the one before it, by hand, on the floor.</summary>
/// <param name="X">Metres.</param>
/// <param name="Z">Metres.</param>
/// <param name="Turn">About the vertical where the clip meets, degrees, to the left.</param>
/// <param name="Own">X and Z are the clip's own sideways (to its left) and ahead; otherwise they are the scene's.</param>
public sealed record ClipNudge(double X, double Z, double Turn, bool Own)
{
    /// <summary>A placement, and this after it.</summary>
    /// <param name="clip">What is placed; its pelvis is what it turns about.</param>
    /// <param name="frame">The frame of it at which it meets.</param>
    public ClipPlacement After(ClipPlacement placed, Motion clip, int frame)
    {
        var s = clip.Skeleton;
        var (turns, places) = (new Quaternion[s.Count], new Vector3[s.Count]);
        ForwardKinematics.World(clip, frame, turns, places);
        var pelvis = Math.Max(0, s.IndexOf(BodyRole.Pelvis));
        var looks = Quaternion.Normalize(placed.Turn * turns[pelvis] * Quaternion.Conjugate(s.RestRotations[pelvis]));
        var (turn, pivot) = (Rotations.AboutAxis(1, Turn * Math.PI / 180), placed.Of(places[pelvis]));
        var by = new Vector3((float)X, 0, (float)Z);
        by = Own ? Vector3.Transform(by, Quaternion.Normalize(turn * Rotations.Twist(looks, Vector3.UnitY))) : by;
        return new ClipPlacement(Quaternion.Normalize(turn * placed.Turn), Vector3.Transform(placed.Move - pivot, turn) + pivot + by);
    }
}
