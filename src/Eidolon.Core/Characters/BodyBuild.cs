using System.Numerics;

namespace Eidolon.Core.Characters;

/// <summary>What a body looks like over its bones: girths against the average, and colours (linear RGB).</summary>
public sealed record BodyBuild
{
    public float Trunk { get; init; } = 1;

    public float Belly { get; init; } = 1;

    public float Shoulders { get; init; } = 1;

    public float Arms { get; init; } = 1;

    public float Legs { get; init; } = 1;

    public float Head { get; init; } = 1;

    public float Hands { get; init; } = 1;

    /// <summary>A long coat that hangs from the hips, as a share of the thigh; 0 for none.</summary>
    public float Coat { get; init; }

    /// <summary>0 bare head, 1 flat cap, 2 pointed hood.</summary>
    public int Hat { get; init; }

    public Vector3 Skin { get; init; } = new(.62f, .42f, .32f);

    public Vector3 Top { get; init; } = new(.70f, .66f, .58f);

    public Vector3 Trousers { get; init; } = new(.30f, .30f, .36f);

    public Vector3 Shoes { get; init; } = new(.12f, .10f, .10f);

    public Vector3 HatColour { get; init; } = new(.20f, .18f, .24f);
}
