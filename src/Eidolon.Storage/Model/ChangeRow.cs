namespace Eidolon.Storage.Model;

/// <summary>A change of a Ledger that was kept. The same change asked for twice on the same state is one.</summary>
public sealed class ChangeRow
{
    public int Id { get; set; }

    /// <summary>Whose Ledger, as <see cref="LedgerOwner.Key"/>.</summary>
    public required string Owner { get; set; }

    /// <summary>The revision the person saw when they asked for it.</summary>
    public int Seen { get; set; }

    /// <summary>Hash of what was asked for.</summary>
    public required string Intent { get; set; }

    /// <summary>The revision it led to.</summary>
    public int Revision { get; set; }

    public string Summary { get; set; } = string.Empty;

    /// <summary>The entry that came of it; null where none did.</summary>
    public int? EntryId { get; set; }

    public int? JobId { get; set; }

    public DateTime CreatedUtc { get; set; }
}
