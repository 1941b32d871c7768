namespace Eidolon.Storage.Model;

/// <summary>A take's Ledger as it once was, under a name.</summary>
public sealed class LedgerVersion
{
    public int Id { get; set; }

    public int TakeId { get; set; }

    public required string Name { get; set; }

    /// <summary>Every node with its entries, as JSON (see LedgerSnapshot).</summary>
    public required string Entries { get; set; }

    public DateTime CreatedUtc { get; set; }
}
