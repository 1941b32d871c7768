namespace Eidolon.Storage.Model;

/// <summary>An entry that was taken back and can be brought again, until something else is added.</summary>
public sealed class TakenBackRow
{
    public int Id { get; set; }

    public int NodeId { get; set; }

    public int Position { get; set; }

    public required string Operation { get; set; }

    public int Version { get; set; }

    public required string Parameters { get; set; }

    public bool On { get; set; }

    /// <summary>Brought again it takes the place of what stands there.</summary>
    public bool Replaces { get; set; }

    /// <summary>Whose Ledger, as <see cref="LedgerOwner.Key"/>.</summary>
    public required string Owner { get; set; }
}
