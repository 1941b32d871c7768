namespace Eidolon.Core.Quality;

/// <summary>How two motions are laid over each other before they are compared.</summary>
public enum Laying
{
    /// <summary>As they are.</summary>
    None,

    /// <summary>One turn and move over the floor that brings all joints of all frames nearest.</summary>
    Floor,

    /// <summary>Pelvis on pelvis, frame by frame; turns stay.</summary>
    Pelvis,
}
