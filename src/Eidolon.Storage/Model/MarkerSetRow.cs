namespace Eidolon.Storage.Model;

/// <summary>A marker set of the production.</summary>
public sealed class MarkerSetRow
{
    public int Id { get; set; }

    public int ProductionId { get; set; }

    public required string Name { get; set; }

    /// <summary>Marker set JSON as in the command line's contract.</summary>
    public required string Json { get; set; }
}
