namespace Eidolon.Storage.Model;

/// <summary>A prop known by its markers.</summary>
public sealed class PropRow
{
    public int Id { get; set; }

    public int ProductionId { get; set; }

    public required string Name { get; set; }

    /// <summary>Places of the markers against the pivot, JSON [[x, y, z], …], metres.</summary>
    public required string Markers { get; set; }

    /// <summary>What it drives: empty, "model" or "camera".</summary>
    public string Tie { get; set; } = string.Empty;
}
