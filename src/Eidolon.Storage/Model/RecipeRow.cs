namespace Eidolon.Storage.Model;

/// <summary>Ledger entries saved under a name, to be run on other takes.</summary>
public sealed class RecipeRow : IPutAside
{
    public int Id { get; set; }

    public int ProductionId { get; set; }

    public required string Name { get; set; }

    /// <inheritdoc/>
    public DateTime? AsideUtc { get; set; }

    /// <summary>JSON: [{ "operation", "parameters" }] in order.</summary>
    public required string Entries { get; set; }
}
