namespace Eidolon.Studio.Jobs;

/// <summary>What jobs do.</summary>
public static class JobKinds
{
    /// <summary>A change of a Ledger; parameters: the change.</summary>
    public const string Change = "change";

    /// <summary>A Recipe, which is a change too; parameters: the change.</summary>
    public const string Recipe = "recipe";

    /// <summary>Brings a Ledger up to date.</summary>
    public const string BringUp = "bring-up";

    /// <summary>Measures a performer from a take; parameters: performer.</summary>
    public const string Measure = "measure";

    /// <summary>Binds a character's mesh anew; parameters: character, placed (text as PlacedSkeletonJson reads it).</summary>
    public const string Bind = "bind";

    /// <summary>What suit, witness cameras and face sent during a recording, made into samples.</summary>
    public const string Unpack = "unpack";

    /// <summary>Bakes a track to a clip of the library; parameters: a BakeRequest.</summary>
    public const string Bake = "bake";
}
