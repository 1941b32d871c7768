namespace Eidolon.Storage.Model;

/// <summary>A Ledger as it once was, under a name.</summary>
public sealed class LedgerVersion
{
    public int Id { get; set; }

    public int TakeId { get; set; }

    public required string Name { get; set; }

    /// <summary>Entries as JSON, in order.</summary>
    public required string Entries { get; set; }

    public DateTime CreatedUtc { get; set; }
}
