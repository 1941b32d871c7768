using System.Numerics;

namespace Eidolon.Core.Characters.Sculpting;

/// <summary>What a part does to the solid before it.</summary>
public enum SculptAct
{
    /// <summary>Is put to it.</summary>
    Add,

    /// <summary>Is taken out of it.</summary>
    Cut,

    /// <summary>Only what lies inside it stays.</summary>
    Keep,
}

/// <summary>A shape of a garment or of the body under it, and what moves it.</summary>
/// <param name="Shape">The solid.</param>
/// <param name="Binding">What moves it; only of parts that add.</param>
/// <param name="Blend">Radius over which it flows into what is there, metres.</param>
public sealed record SculptPart(SculptShape Shape, SkinBinding? Binding, float Blend, SculptAct Act = SculptAct.Add);

/// <summary>One closed surface of one material.</summary>
/// <param name="Material">What it is made of.</param>
/// <param name="Cell">Detail finer than this is lost, metres.</param>
/// <param name="Parts">In the order in which they are put together; the first one adds.</param>
public sealed record Garment(SurfaceMaterial Material, float Cell, IReadOnlyList<SculptPart> Parts)
{
    /// <summary>A part whose surface is this much further away still has a say of 1/e in what moves a place, metres: little where parts lie side by side.</summary>
    public float Fade { get; init; } = 0.012f;

    /// <summary>How far a place goes for a face shape at its full weight, metres: by the shape's name and the place; null for what no face moves.</summary>
    public Func<string, Vector3, Vector3>? Moves { get; init; }

    /// <summary>Everything below this height is cut flat (soles); null for none.</summary>
    public float? Floor { get; init; }
}
