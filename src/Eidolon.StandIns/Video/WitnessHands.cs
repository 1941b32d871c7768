using System.Numerics;
using Eidolon.Core.Hands;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.Video;

/// <summary>Where the points of both hands are that a witness camera's tracker names: the palm's middle, then four of each finger.</summary>
internal sealed class WitnessHands
{
    /// <summary>How a hand hangs that does nothing, radians.</summary>
    private static readonly FingerPose Ease = new(0, 0.3f, 0.42f, 0.28f);

    private readonly Skeleton _body;
    private readonly int[] _hands;

    /// <summary>Of each finger's three joints, −1 on a body without fingers: [side × 15 + finger × 3 + joint].</summary>
    private readonly int[] _joints = new int[2 * HandShape.FingerCount * 3];

    /// <summary>Against the wrist, metres, of someone whose fingers do nothing.</summary>
    private readonly Vector3[][] _relaxed;

    public WitnessHands(Skeleton body, float stature)
    {
        _body = body;
        _hands = [body.IndexOf(BodyRole.HandL), body.IndexOf(BodyRole.HandR)];
        for (var i = 0; i < _joints.Length; i++)
        {
            _joints[i] = body.IndexOf(HandShape.Joint("LR"[i / 15], i / 3 % HandShape.FingerCount, (i % 3) + 1));
        }

        _relaxed = [Relaxed('L', stature), Relaxed('R', stature)];
    }

    /// <param name="point">0 is the palm, then 1 to 4 of each finger, thumb first.</param>
    /// <param name="turns">World turns of the body's joints; so are its places.</param>
    public Vector3 At(int side, int point, Quaternion[] turns, Vector3[] places)
    {
        var hand = _hands[side];
        var (finger, joint) = point == 0 ? (2, 0) : ((point - 1) / 4, (point - 1) % 4);
        var at = _joints[(((side * HandShape.FingerCount) + finger) * 3) + Math.Min(joint, 2)];
        if (at < 0)
        {
            return places[hand] + Vector3.Transform(_relaxed[side][point], turns[hand]);
        }

        return point == 0 ? Vector3.Lerp(places[hand], places[at], 0.5f)
            : joint < 3 ? places[at]
            : places[at] + Vector3.Transform(_body[at].EndSite ?? default, turns[at]);
    }

    private static Vector3[] Relaxed(char side, float stature)
    {
        var shape = HandShape.Average(side, HandShape.LengthShare * stature);
        var points = new Vector3[1 + (HandShape.FingerCount * 4)];
        points[0] = shape.Fingers[2].Base / 2;
        for (var finger = 0; finger < HandShape.FingerCount; finger++)
        {
            shape.Fingers[finger].Places(Ease, points.AsSpan(1 + (finger * 4), 4));
        }

        return points;
    }
}
