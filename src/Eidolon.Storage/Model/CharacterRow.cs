namespace Eidolon.Storage.Model;

/// <summary>A prepared character.</summary>
public sealed class CharacterRow
{
    public int Id { get; set; }

    public int ProductionId { get; set; }

    public required string Name { get; set; }

    public required byte[] Glb { get; set; }

    /// <summary>Verdict of the rest check and its reasons.</summary>
    public string Verdict { get; set; } = string.Empty;

    public string Reasons { get; set; } = string.Empty;

    public float Height { get; set; }
}
