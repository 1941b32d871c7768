namespace Eidolon.Storage.Model;

/// <summary>A day of shooting.</summary>
public sealed class ShootDay : IPutAside
{
    public int Id { get; set; }

    public int ProductionId { get; set; }

    public required string Name { get; set; }

    public DateOnly Date { get; set; }

    /// <inheritdoc/>
    public DateTime? AsideUtc { get; set; }

    public List<Take> Takes { get; } = [];
}
