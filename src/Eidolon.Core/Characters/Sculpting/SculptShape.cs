using System.Numerics;

namespace Eidolon.Core.Characters.Sculpting;

/// <summary>A solid in the rest pose's world space, metres.</summary>
public abstract record SculptShape
{
    /// <summary>Signed distance, metres: below zero inside. Exact on the surface, approximate elsewhere.</summary>
    public abstract float Distance(Vector3 p);

    /// <summary>Lower corner of a box around it.</summary>
    public abstract Vector3 Low { get; }

    /// <summary>Upper corner of a box around it.</summary>
    public abstract Vector3 High { get; }
}

/// <summary>A tapered capsule, squashed along the axes of the world.</summary>
/// <param name="Squash">Width of the cross-section along X, Y, Z; 1 is round.</param>
public sealed record Limb(Vector3 A, Vector3 B, float RadiusA, float RadiusB, Vector3 Squash) : SculptShape
{
    /// <summary>A round one.</summary>
    public Limb(Vector3 a, Vector3 b, float radiusA, float radiusB)
        : this(a, b, radiusA, radiusB, Vector3.One) { }

    private Vector3 Reach => new Vector3(MathF.Max(RadiusA, RadiusB)) * Vector3.Max(Squash, Vector3.One);

    /// <inheritdoc/>
    public override Vector3 Low => Vector3.Min(A, B) - Reach;

    /// <inheritdoc/>
    public override Vector3 High => Vector3.Max(A, B) + Reach;

    /// <inheritdoc/>
    public override float Distance(Vector3 p)
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
