namespace Eidolon.Core.Characters;

/// <summary>Does a rest pose suit retargeting.</summary>
public enum RestVerdict
{
    /// <summary>Motions come over as they are.</summary>
    Ready,

    /// <summary>They come over with turns that are off by a few degrees; the reasons say where.</summary>
    WillDrift,

    /// <summary>A role that is needed is missing, or the pose is none a person stands in.</summary>
    CannotFit,
}
