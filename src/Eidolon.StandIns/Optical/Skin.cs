namespace Eidolon.StandIns.Optical;

/// <summary>How skin, straps and suit move over the bones, beyond what bends explain. Metres where no other unit is said.</summary>
/// <param name="Bend">Largest slide as the joint beside a marker bends (compare Leardini 2005).</param>
/// <param name="Wobble">How much of its bone's acceleration reaches soft flesh as a damped swing; 0 for none, 1 for the softest thigh.</param>
/// <param name="Bulge">Farthest a muscle lifts a marker as its joint bends.</param>
/// <param name="Creep">Farthest a strap has crept along its bone at the end of a take.</param>
/// <param name="Shift">Farthest a suit's limb jumps over the bone, once in the take, and stays.</param>
/// <param name="Tape">How far from its place a crew tapes a marker, to either side of each axis.</param>
public sealed record Skin(float Bend = 0.006f, float Wobble = 0, float Bulge = 0, float Creep = 0, float Shift = 0, float Tape = 0.006f)
{
    /// <summary>False where skin moves by bends alone.</summary>
    internal bool Swings => Wobble + Bulge + Creep + Shift > 0;

    /// <summary>Markers glued on bare, firm skin.</summary>
    public static Skin Firm { get; } = new(0.003f, 0.15f, 0.001f);

    /// <summary>Bodies as they are: flesh swings after a step, muscles lift markers, straps creep.</summary>
    public static Skin Soft { get; } = new(0.006f, 0.5f, 0.004f, 0.004f);

    /// <summary>A loose suit: everything slides, and one limb after another shifts in the take.</summary>
    public static Skin Loose { get; } = new(0.010f, 0.9f, 0.006f, 0.006f, 0.010f, 0.010f);
}
