namespace Eidolon.Storage.Model;

/// <summary>Characters and props on tracks of clips. Its tracks and layers are nodes with its id.</summary>
public sealed class Scene : IPutAside
{
    public int Id { get; set; }

    public int ProductionId { get; set; }

    public int? ShootDayId { get; set; }

    /// <summary>The take it was made of when that was opened at Assemble; null for a scene of its own.</summary>
    public int? TakeId { get; set; }

    public required string Name { get; set; }

    /// <summary>Counted on with every change of its Ledger.</summary>
    public int Revision { get; set; }

    /// <summary>Small figures as SVG, or empty.</summary>
    public string Postures { get; set; } = string.Empty;

    public double Seconds { get; set; }

    public DateTime CreatedUtc { get; set; }

    public List<NodeRow> Nodes { get; } = [];

    /// <inheritdoc/>
    public DateTime? AsideUtc { get; set; }

    public List<HandOff> HandOffs { get; } = [];
}
