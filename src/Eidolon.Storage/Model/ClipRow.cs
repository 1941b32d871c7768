namespace Eidolon.Storage.Model;

/// <summary>A clip that somebody has put into the library of a production: a stretch of a cast, or a motion of its own.</summary>
public sealed class ClipRow : IPutAside
{
    public int Id { get; set; }

    public int ProductionId { get; set; }

    /// <summary>The character it is of.</summary>
    public int SubjectId { get; set; }

    /// <summary>The node it is cut from: a cast, or the clip's own where it has a motion of its own.</summary>
    public int NodeId { get; set; }

    /// <summary>First frame of the node's motion that it shows.</summary>
    public int Start { get; set; }

    /// <summary>The frame after the last; null for all.</summary>
    public int? End { get; set; }

    public required string Name { get; set; }

    /// <summary>Words to find it by, with commas between them.</summary>
    public string Tags { get; set; } = string.Empty;

    /// <summary>Where a motion of its own comes from, for people: the scene it was baked in, the file it was read from.</summary>
    public string From { get; set; } = string.Empty;

    /// <summary>The file of a motion of its own; null for a stretch of a cast.</summary>
    public int? BlobId { get; set; }

    /// <summary>Content of a motion of its own.</summary>
    public string Content { get; set; } = string.Empty;

    /// <summary>Frames of a motion of its own.</summary>
    public int FrameCount { get; set; }

    public double FrameRate { get; set; }

    /// <summary>A row of small figures that says what it is.</summary>
    public string Postures { get; set; } = string.Empty;

    public DateTime CreatedUtc { get; set; }

    public DateTime? AsideUtc { get; set; }
}
