using System.Numerics;
using Eidolon.Core.Clipping;
using Eidolon.Core.Geometry;
using Eidolon.Core.Hands;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>A hand that is closed for a while.</summary>
/// <param name="Hand">HandL or HandR.</param>
/// <param name="Start">First frame on which it is closed.</param>
/// <param name="End">Last one.</param>
/// <param name="Fingers">How far each finger is closed, 0 straight to 1 a fist; thumb to little finger.</param>
public sealed record ClosedHand(BodyRole Hand, int Start, int End, IReadOnlyList<float> Fingers);

/// <summary>Closes fingers around what a hand holds: bent joint by joint until they lie on it, eased in before and out after.</summary>
public static class GripPose
{
    /// <summary>Of a fist, degrees at the three joints.</summary>
    private static readonly float[] Fist = [80, 95, 60],
        ThumbFist = [35, 45, 55];

    /// <summary>Half as thick as a finger, metres.</summary>
    private const float Finger = 0.008f;

    /// <summary>A finger closes so far in one try.</summary>
    private const float Try = 0.04f;

    /// <summary>A hand that finds nothing to lie on is as closed as a hand that carries: neither flat nor a fist.</summary>
    private const float Loose = 0.45f;

    /// <summary>Closes and opens within this, seconds.</summary>
    private const double Ease = 0.25;

    /// <summary>True where a character has fingers to close.</summary>
    public static bool Can(Skeleton s, BodyRole hand) => s.IndexOf(HandShape.Joint(Side(hand), 1, 1)) >= 0;

    /// <summary>How far each finger closes before it lies on a prop, as the hand holds it in the middle of a grip.</summary>
    /// <param name="motion">The character's, hands where they hold.</param>
    public static ClosedHand Fit(Motion motion, BodyRole hand, int start, int end, EncounterProp prop)
    {
        var frame = Math.Clamp((start + end) / 2, 0, motion.FrameCount - 1);
        var s = motion.Skeleton;
        var pose = TPose.Of(s);
        var turns = new Quaternion[s.Count];
        var places = new Vector3[s.Count];
        var seen = Math.Min(frame, prop.Places.FrameCount - 1);
        var (at, turn) = (prop.Places.Positions[seen], prop.Places.Turns[seen]);
        var shares = new float[HandShape.FingerCount];
        for (var f = 0; f < shares.Length; f++)
        {
            var joints = Joints(s, hand, f);
            shares[f] = Loose;
            if (joints.Length == 0 || !float.IsFinite(at.X))
            {
                continue;
            }

            var local = motion.RotationsAt(frame).ToArray();
            for (var share = 0f; share <= 1; share += Try)
            {
                Close(s, pose, joints, hand, f, share, local);
                ForwardKinematics.World(s, local, motion.TranslationsAt(frame), turns, places);
                if (Touches(s, joints, turns, places, prop, at, turn))
                {
                    // The try before lay outside; a finger that begins inside stays straight.
                    shares[f] = Math.Max(0, share - Try);
                    break;
                }
            }
        }

        return new ClosedHand(hand, start, end, shares);
    }

    /// <summary>The motion with hands closed for a while; what fingers did before is eased into and out of.</summary>
    public static Motion Apply(Motion motion, IReadOnlyList<ClosedHand> hands)
    {
        var result = motion.Copy();
        var s = motion.Skeleton;
        var pose = TPose.Of(s);
        var ease = Math.Max(1, (int)Math.Round(Ease * motion.FrameRate));
        foreach (var hand in hands)
        {
            var closed = new Quaternion[s.Count];
            var fingers = Enumerable.Range(0, HandShape.FingerCount).Select(k => Joints(s, hand.Hand, k)).ToArray();
            for (var k = 0; k < fingers.Length; k++)
            {
                Close(s, pose, fingers[k], hand.Hand, k, hand.Fingers[k], closed);
            }

            int[] joints = [.. fingers.SelectMany(j => j)];
            for (var f = Math.Max(0, hand.Start - ease); f <= Math.Min(motion.FrameCount - 1, hand.End + ease); f++)
            {
                var outside = f < hand.Start ? hand.Start - f : Math.Max(0, f - hand.End);
                var weight = CubicSpline.MinimumJerk(1 - (outside / (float)ease));
                var local = result.RotationsAt(f);
                foreach (var j in joints)
                {
                    local[j] = Quaternion.Normalize(Rotations.Slerp(local[j], closed[j], weight));
                }
            }
        }

        return result;
    }

    private static char Side(BodyRole hand) => BodyRoles.Side(hand);

    private static int[] Joints(Skeleton s, BodyRole hand, int finger) =>
        [.. Enumerable.Range(1, 3).Select(k => s.IndexOf(HandShape.Joint(Side(hand), finger, k))).Where(j => j >= 0)];

    /// <summary>Local turns of a finger's joints at a share of a fist, from the T-pose, whatever axes the rig has.</summary>
    private static void Close(Skeleton s, TPose pose, int[] joints, BodyRole hand, int finger, float share, Span<Quaternion> local)
    {
        var bends = HandShape.Average(Side(hand), 1).Fingers[finger].Bends;
        for (var k = 0; k < joints.Length; k++)
        {
            var (j, above) = (joints[k], s.Parents[joints[k]]);
            var into = Quaternion.Conjugate(pose.Turns[above]);
            var degrees = (finger == 0 ? ThumbFist : Fist)[k] * share;
            var bend = Quaternion.CreateFromAxisAngle(Vector3.Normalize(Vector3.Transform(bends, into)), degrees * MathF.PI / 180);
            local[j] = Quaternion.Normalize(bend * into * pose.Turns[j]);
        }
    }

    /// <summary>The bone before a joint as that joint sees it at rest.</summary>
    private static Vector3 Along(Skeleton s, int joint) => Vector3.Transform(s[joint].Offset, Quaternion.Conjugate(s[joint].RestRotation));

    /// <summary>Does one of the finger's outer bones lie on the prop?</summary>
    private static bool Touches(
        Skeleton s,
        int[] joints,
        Quaternion[] turns,
        Vector3[] places,
        EncounterProp prop,
        Vector3 at,
        Quaternion turn
    )
    {
        var back = Quaternion.Conjugate(turn);
        for (var k = 1; k < joints.Length + 1; k++)
        {
            var from = places[joints[k - 1]];
            var to =
                k < joints.Length ? places[joints[k]]
                : s[joints[k - 1]].EndSite is { } end ? from + Vector3.Transform(end, turns[joints[k - 1]])
                // A last bone without an end is as long as four fifths of the one before it.
                : from + Vector3.Transform(Along(s, joints[k - 1]) * .8f, turns[joints[k - 1]]);
            for (var i = 1; i <= 4; i++)
            {
                if (prop.Signed(Vector3.Transform(Vector3.Lerp(from, to, i / 4f) - at, back)) < Finger)
                {
                    return true;
                }
            }
        }

        return false;
    }
}
