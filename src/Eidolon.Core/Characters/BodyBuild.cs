using System.Numerics;

namespace Eidolon.Core.Characters;

/// <summary>What a body looks like over its bones: girths against the average, and colours (linear RGB).</summary>
public sealed record BodyBuild
{
    /// <summary>Girth of the trunk against the usual one.</summary>
    public float Trunk { get; init; } = 1;

    /// <summary>How far the belly stands out against the usual one.</summary>
    public float Belly { get; init; } = 1;

    /// <summary>Girth at the shoulders against the usual one.</summary>
    public float Shoulders { get; init; } = 1;

    /// <summary>Girth of the arms against the usual one.</summary>
    public float Arms { get; init; } = 1;

    /// <summary>Girth of the legs against the usual one.</summary>
    public float Legs { get; init; } = 1;

    /// <summary>Size of the head against the usual one.</summary>
    public float Head { get; init; } = 1;

    /// <summary>Size of the hands against the usual one.</summary>
    public float Hands { get; init; } = 1;

    /// <summary>A long coat that hangs from the hips, as a share of the thigh; 0 for none.</summary>
    public float Coat { get; init; }

    /// <summary>0 bare head, 1 flat cap, 2 pointed hood.</summary>
    public int Hat { get; init; }

    /// <summary>Colour of the skin, linear red, green and blue, 0 to 1; the other colours alike.</summary>
    public Vector3 Skin { get; init; } = new(.62f, .42f, .32f);

    /// <summary>Colour of the clothes above the waist.</summary>
    public Vector3 Top { get; init; } = new(.70f, .66f, .58f);

    /// <summary>Colour of the clothes below the waist.</summary>
    public Vector3 Trousers { get; init; } = new(.30f, .30f, .36f);

    /// <summary>Colour of the shoes.</summary>
    public Vector3 Shoes { get; init; } = new(.12f, .10f, .10f);

    /// <summary>Colour of the hat, where one is worn.</summary>
    public Vector3 HatColour { get; init; } = new(.20f, .18f, .24f);
}
