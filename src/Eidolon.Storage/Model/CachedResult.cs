namespace Eidolon.Storage.Model;

/// <summary>The result of a Ledger entry on its input, by hash of both; can be thrown away at any time.</summary>
public sealed class CachedResult
{
    public required string Hash { get; set; }

    public required string Summary { get; set; }

    public required string Report { get; set; }

    public required byte[] Data { get; set; }
}
