using System.Numerics;

namespace Eidolon.Core.Optical;

/// <summary>
/// The angle that is laid on the floor: one marker at the corner, one on the short arm (+X), two on the long arm (+Z). All six
/// distances differ, so that the markers are told apart by them.
/// </summary>
/// <param name="Height">Of the markers' centres above the floor, metres.</param>
public sealed record GroundFrame(float ShortArm = 0.3f, float LongNear = 0.2f, float LongFar = 0.55f, float Height = 0.02f)
{
    /// <summary>Corner, short arm, long arm near, long arm far; metres.</summary>
    public Vector3[] Markers => [new(0, Height, 0), new(ShortArm, Height, 0), new(0, Height, LongNear), new(0, Height, LongFar)];
}
