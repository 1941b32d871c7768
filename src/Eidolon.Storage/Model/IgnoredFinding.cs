namespace Eidolon.Storage.Model;

/// <summary>A Finding that a person has looked at and lets be, with the reason.</summary>
public sealed class IgnoredFinding
{
    public int Id { get; set; }

    public int TakeId { get; set; }

    public required string Kind { get; set; }

    public required string Subject { get; set; }

    public int Start { get; set; }

    public int End { get; set; }

    public required string Reason { get; set; }

    public DateTime CreatedUtc { get; set; }
}
