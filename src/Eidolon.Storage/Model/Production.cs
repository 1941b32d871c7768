namespace Eidolon.Storage.Model;

/// <summary>A production: everything else belongs to one.</summary>
public sealed class Production
{
    public int Id { get; set; }

    public required string Name { get; set; }

    public List<ShootDay> Days { get; } = [];
}
