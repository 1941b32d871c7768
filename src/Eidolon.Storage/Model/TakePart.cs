namespace Eidolon.Storage.Model;

/// <summary>A performer or prop that took part in a take.</summary>
public sealed class TakePart
{
    public int Id { get; set; }

    public int TakeId { get; set; }

    public int SubjectId { get; set; }

    public Subject? Subject { get; set; }

    /// <summary>The order of the slate.</summary>
    public int Position { get; set; }

    /// <summary>What stands before the names of its markers in this take: the name it had then. Empty where it is alone.</summary>
    public string Prefix { get; set; } = string.Empty;

    /// <summary>The version of the subject this take stays with; null follows the newest.</summary>
    public int? Version { get; set; }
}
