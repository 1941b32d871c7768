using System.Numerics;

namespace Eidolon.Core.Characters;

/// <summary>A tapered capsule in the rest pose's world space, squashed along the axes, that belongs to a joint.</summary>
/// <param name="Squash">Width of the cross-section along X, Y, Z; 1 is round.</param>
public sealed record SculptPart(int Joint, Vector3 A, Vector3 B, float RadiusA, float RadiusB, float Blend, Vector3 Colour, Vector3 Squash)
{
    /// <summary>Signed distance to the part, metres (approximate where squashed).</summary>
    public float Distance(Vector3 p)
    {
        // Squashing is undone about the nearest point of the axis.
        var axis = B - A;
        var t = axis.LengthSquared() < 1e-10f ? 0 : Math.Clamp(Vector3.Dot(p - A, axis) / axis.LengthSquared(), 0, 1);
        var d = (p - (A + (axis * t))) / Squash;
        var r = RadiusA + ((RadiusB - RadiusA) * t);
        var length = d.Length();
        var stretch = length < 1e-6f ? 1 : (d * Squash).Length() / length;
        return (length - r) * stretch;
    }
}
