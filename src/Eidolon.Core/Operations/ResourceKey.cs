namespace Eidolon.Core.Operations;

/// <summary>Things outside the Ledger that an operation may use.</summary>
public enum ResourceKind
{
    /// <summary>The marker set that is worn in the take.</summary>
    MarkerSet,

    /// <summary>A measured performer.</summary>
    Performer,

    /// <summary>All measured performers of the take.</summary>
    Performers,

    /// <summary>All performers of the take with the labelled takes that taught their shape.</summary>
    References,

    /// <summary>The take's raw 2D and the calibration it was recorded with.</summary>
    Pictures,

    /// <summary>A character's skeleton and roles.</summary>
    Character,

    /// <summary>A prop's markers.</summary>
    Prop,

    /// <summary>The markers of every prop of the take.</summary>
    Props,

    /// <summary>What a performer's gloves measured.</summary>
    Gloves,

    /// <summary>What a tracker saw of a performer's face.</summary>
    Face,
}

/// <summary>One resource, by what it is and, where there are several, whose.</summary>
/// <param name="Id">The subject's id; 0 where the take has only one.</param>
/// <param name="Recording">Which of several recordings of one kind and subject, from 1.</param>
public readonly record struct ResourceKey(ResourceKind Kind, int Id = 0, int Recording = 1);
