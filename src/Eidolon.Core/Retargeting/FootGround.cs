using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Retargeting;

/// <summary>What a character's foot stands on: how high each contact is, and how the foot lies on it.</summary>
/// <param name="AnkleHeight">Of the ankle over the floor at rest, metres.</param>
/// <param name="ToeHeight">Of the toe joint, metres.</param>
/// <param name="Level">Height of what a contact of the performer stands on, as the character takes it, metres.</param>
/// <param name="Flat">World turn of the foot in the T-pose; null: it lies as the performer's does.</param>
internal sealed record FootGround(float AnkleHeight, float ToeHeight, Func<Contact, float> Level, Quaternion? Flat)
{
    /// <summary>A foot farther from flat than this stands on an edge and keeps its tilt, radians.</summary>
    private const float FlatWithin = 0.25f;

    /// <summary>The turn of a foot whose heel and toes both stand.</summary>
    public Quaternion Lay(Quaternion turn)
    {
        if (Flat is not { } rest)
        {
            return turn;
        }

        var flat = Quaternion.Normalize(Rotations.Twist(turn * Quaternion.Conjugate(rest), Vector3.UnitY) * rest);
        return Rotations.Angle(flat, turn) < FlatWithin ? flat : turn;
    }
}
