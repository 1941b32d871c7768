using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Hands;

/// <summary>The bones of one hand, in the hand joint's frame of the T-pose (palm down, thumb ahead), metres.</summary>
/// <param name="Side">'L' or 'R'.</param>
/// <param name="Fingers">Thumb, index, middle, ring, little.</param>
public sealed record HandShape(char Side, IReadOnlyList<FingerChain> Fingers)
{
    /// <summary>Thumb to little finger.</summary>
    public const int FingerCount = 5;

    /// <summary>A hand's length from wrist to middle fingertip as a share of the stature.</summary>
    /// <remarks>Winter, "Biomechanics and Motor Control of Human Movement", fig. 4.1.</remarks>
    public const float LengthShare = 0.108f;

    /// <summary>Names of the fingers in their order.</summary>
    public static IReadOnlyList<string> Names { get; } = ["Thumb", "Index", "Middle", "Ring", "Little"];

    /// <summary>Left hand of length 1: knuckle, then the lengths of the three bones. X along the hand, Y up, Z towards the thumb.</summary>
    /// <remarks>Bone lengths after Buryanov and Kotiuk, "Proportions of Hand Segments", Int. J. Morphol. 28(3), 2010.</remarks>
    private static readonly (Vector3 Base, float A, float B, float C)[] Table =
    [
        (new(.130f, -.060f, .130f), .240f, .170f, .130f),
        (new(.480f, .000f, .130f), .225f, .128f, .095f),
        (new(.485f, .005f, .020f), .250f, .150f, .100f),
        (new(.460f, .000f, -.085f), .232f, .145f, .100f),
        (new(.420f, -.012f, -.175f), .185f, .103f, .092f),
    ];

    /// <summary>Where the straight thumb of a flat left hand points, and where its tip goes as it closes.</summary>
    private static readonly Vector3 ThumbAlong = Vector3.Normalize(new(.66f, -.28f, .70f)),
        ThumbTowards = Vector3.Normalize(new(.45f, -.55f, -.80f));

    /// <summary>A hand of average proportions.</summary>
    /// <param name="side">'L' or 'R'.</param>
    /// <param name="length">Wrist to middle fingertip, metres.</param>
    public static HandShape Average(char side, float length)
    {
        var sign = side == 'L' ? 1f : -1f;
        Vector3 Own(Vector3 v) => v * new Vector3(sign, 1, 1);
        var fingers = new FingerChain[FingerCount];
        for (var f = 0; f < FingerCount; f++)
        {
            var (at, a, b, c) = Table[f];
            var along = f == 0 ? ThumbAlong : Vector3.UnitX;
            var towards = f == 0 ? Vector3.Normalize(ThumbTowards - (along * Vector3.Dot(ThumbTowards, along))) : -Vector3.UnitY;
            var (d, m) = (Own(along), Own(towards));
            fingers[f] = new FingerChain(
                Joint(side, f, 1),
                Own(at) * length,
                d * (a * length),
                d * (b * length),
                d * (c * length),
                Vector3.Normalize(Vector3.Cross(d, m)),
                m
            );
        }

        return new HandShape(side, fingers);
    }

    /// <summary>Role of a finger's joint; counted from 1 at the palm.</summary>
    public static BodyRole Joint(char side, int finger, int joint) => Enum.Parse<BodyRole>($"{Names[finger]}{side}{joint}");
}
