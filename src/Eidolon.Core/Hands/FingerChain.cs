using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Hands;

/// <summary>One finger of a hand that lies flat, in the hand's frame, metres: where its joints are and about what they turn.</summary>
/// <param name="First">Role of the joint at the palm; the two others follow it.</param>
/// <param name="Base">The joint at the palm, from the wrist.</param>
/// <param name="Middle">The middle joint, from the one before.</param>
/// <param name="Last">The last joint, from the one before.</param>
/// <param name="Tip">The end of the finger, from the last joint.</param>
/// <param name="Bends">Unit axis that the three joints bend about, towards the palm.</param>
/// <param name="Spreads">Unit axis that the first joint also turns about, sideways.</param>
public sealed record FingerChain(BodyRole First, Vector3 Base, Vector3 Middle, Vector3 Last, Vector3 Tip, Vector3 Bends, Vector3 Spreads)
{
    /// <summary>The thumb closes across the palm: other limits, and its first joint is a saddle.</summary>
    public bool IsThumb =>
        BodyRoles.Stem(First).StartsWith("Thumb", StringComparison.Ordinal) || First is BodyRole.ThumbL1 or BodyRole.ThumbR1;

    /// <summary>Lengths from knuckle to tip, metres.</summary>
    public float Length => Middle.Length() + Last.Length() + Tip.Length();

    /// <summary>The same finger with other bones.</summary>
    public FingerChain Scaled(float by) => this with { Middle = Middle * by, Last = Last * by, Tip = Tip * by };

    /// <summary>Local turns of the three joints.</summary>
    public (Quaternion First, Quaternion Second, Quaternion Third) Turns(FingerPose pose) =>
        (
            Quaternion.CreateFromAxisAngle(Spreads, pose.Spread) * Quaternion.CreateFromAxisAngle(Bends, pose.First),
            Quaternion.CreateFromAxisAngle(Bends, pose.Second),
            Quaternion.CreateFromAxisAngle(Bends, pose.Third)
        );

    /// <summary>Places of the three joints and the tip in the hand's frame.</summary>
    public void Places(FingerPose pose, Span<Vector3> four)
    {
        var (a, b, c) = Turns(pose);
        four[0] = Base;
        four[1] = four[0] + Vector3.Transform(Middle, a);
        four[2] = four[1] + Vector3.Transform(Last, a * b);
        four[3] = four[2] + Vector3.Transform(Tip, a * b * c);
    }

    /// <summary>The pose that joint turns of some other source come nearest to: bends about the axis, the rest of the first joint as spread.</summary>
    public FingerPose Nearest(Quaternion first, Quaternion second, Quaternion third)
    {
        float Bend(Quaternion q) => Vector3.Dot(Rotations.Log(Rotations.Twist(q, Bends)), Bends);
        var bend = Bend(first);
        var side = first * Quaternion.Conjugate(Quaternion.CreateFromAxisAngle(Bends, bend));
        return FingerLimits.Of(IsThumb).Clamp(new FingerPose(Vector3.Dot(Rotations.Log(side), Spreads), bend, Bend(second), Bend(third)));
    }
}
