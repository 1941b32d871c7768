namespace Eidolon.Core.Cleaning;

/// <summary>Ways to fill a gap.</summary>
public enum FillMethod
{
    /// <summary>Whichever was nearest the truth on artificial gaps beside the real one.</summary>
    Auto,

    /// <summary>A cubic between the two ends.</summary>
    Spline,

    /// <summary>Carried by the other markers of the same segment.</summary>
    Rigid,

    /// <summary>As the markers around it moved with it in the rest of the take.</summary>
    Correlation,

    /// <summary>A copy of the moment of the take that is most alike, carried along by the markers around it.</summary>
    Cycle,

    /// <summary>Where the solved skeleton carries the marker.</summary>
    Skeleton,
}
