namespace Eidolon.Core.Operations;

/// <summary>The kinds of node a Ledger is made of; each has entries of its own and gives one value.</summary>
public enum NodeKind
{
    /// <summary>The markers of a take: labels, cleaning, trim. Stands on the raw samples.</summary>
    Markers = 1,

    /// <summary>The motion of a performer in a take: solve, contacts. Stands on the markers, or on a motion that was brought in.</summary>
    Solve = 2,

    /// <summary>Where a prop is in a take. Stands on recorded places, or on the markers.</summary>
    Places = 3,

    /// <summary>A performer's motion on a character it plays.</summary>
    Cast = 4,

    /// <summary>What a character or prop does in a scene: clips of casts or places, joined.</summary>
    Track = 5,

    /// <summary>Layers on a character's track.</summary>
    Layers = 6,

    /// <summary>A motion in the library of clips, baked in a scene or brought in. It belongs to no take.</summary>
    Clip = 7,

    /// <summary>Where a prop is that is attached to the hands of characters in a take. Stands on its places, and on the casts whose hands have it.</summary>
    Attached = 8,
}
