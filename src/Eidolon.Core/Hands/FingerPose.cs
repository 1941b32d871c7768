namespace Eidolon.Core.Hands;

/// <summary>How one finger is held, radians; all zero is straight. A bend is never below zero: no finger bends backwards.</summary>
/// <param name="Spread">Sideways at the knuckle, away from the palm's middle line by the sign of the chain's own axis.</param>
/// <param name="First">Bend of the joint at the palm; for the thumb, at its saddle.</param>
/// <param name="Second">Bend of the middle joint.</param>
/// <param name="Third">Bend of the last joint.</param>
public readonly record struct FingerPose(float Spread, float First, float Second, float Third)
{
    /// <summary>How far closed, 0 straight to 1 a fist, from the two joints that close a hand.</summary>
    public float Curl => Math.Clamp((First + Second) / ((85 + 100) * MathF.PI / 180), 0, 1);
}
