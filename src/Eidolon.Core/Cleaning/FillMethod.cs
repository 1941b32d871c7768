namespace Eidolon.Core.Cleaning;

/// <summary>Ways to fill a gap.</summary>
public enum FillMethod
{
    /// <summary>Whichever was nearer the truth on artificial gaps beside the real one.</summary>
    Auto,

    /// <summary>A cubic between the two ends.</summary>
    Spline,

    /// <summary>Carried by the other markers of the same segment.</summary>
    Rigid,
}
