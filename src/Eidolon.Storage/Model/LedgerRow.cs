namespace Eidolon.Storage.Model;

/// <summary>One Ledger entry of a take, in order.</summary>
public sealed class LedgerRow
{
    public int Id { get; set; }

    public int TakeId { get; set; }

    public int Position { get; set; }

    public required string Operation { get; set; }

    public int Version { get; set; }

    /// <summary>Parameters as JSON.</summary>
    public required string Parameters { get; set; }

    public bool On { get; set; } = true;

    public string Summary { get; set; } = string.Empty;

    public DateTime CreatedUtc { get; set; }
}
