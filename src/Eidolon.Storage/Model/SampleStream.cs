namespace Eidolon.Storage.Model;

/// <summary>Samples over time of one kind, mostly of one subject. Written once.</summary>
public sealed class SampleStream
{
    public int Id { get; set; }

    public int TakeId { get; set; }

    /// <summary>Whose samples they are; null where they are of all or of nobody yet.</summary>
    public int? SubjectId { get; set; }

    public StreamKind Kind { get; set; }

    /// <summary>What it is called within the take, e.g. "ring", "markers", "suit", "witness-1", "places-7".</summary>
    public required string Name { get; set; }

    public double FrameRate { get; set; }

    public int FrameCount { get; set; }

    /// <summary>Names of the channels, one a line; empty where the kind has none.</summary>
    public string Channels { get; set; } = string.Empty;

    /// <summary>Content hash of the whole stream, 32 hexadecimal digits; empty until it was read for the first time.</summary>
    public string Content { get; set; } = string.Empty;

    /// <summary>Damaged frames that a person goes on without, as <see cref="Samples.FrameSpans"/> writes them; empty usually.</summary>
    public string LeftOut { get; set; } = string.Empty;

    /// <summary>The camera of a film, as in camera files; empty elsewhere.</summary>
    public string Camera { get; set; } = string.Empty;

    public IReadOnlyList<string> Names => Channels.Split('\n', StringSplitOptions.RemoveEmptyEntries);
}
