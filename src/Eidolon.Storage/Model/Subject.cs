namespace Eidolon.Storage.Model;

/// <summary>A performer, a character or a prop of the library. It is known by its id; the name is for people.</summary>
public sealed class Subject : IPutAside
{
    public int Id { get; set; }

    public int ProductionId { get; set; }

    public SubjectKind Kind { get; set; }

    public required string Name { get; set; }

    /// <summary>The version that is used where none is pinned; 0 before the first.</summary>
    public int Version { get; set; }

    /// <summary>What is being done to a character (see CharacterDraftJson); null while it is locked, as it was accepted.</summary>
    public string? Draft { get; set; }

    /// <inheritdoc/>
    public DateTime? AsideUtc { get; set; }

    public List<SubjectVersion> Versions { get; } = [];
}
