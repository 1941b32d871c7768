namespace Eidolon.Storage.Model;

/// <summary>A film that was shot next to a take.</summary>
public sealed class WitnessVideo
{
    public int Id { get; set; }

    public int TakeId { get; set; }

    public required string FileName { get; set; }

    public required string ContentType { get; set; }

    /// <summary>The film itself.</summary>
    public int BlobId { get; set; }

    /// <summary>Second of the film that belongs to the take's frame 0.</summary>
    public double OffsetSeconds { get; set; }

    /// <summary>Seconds of the film that are used; the whole film when the end is 0.</summary>
    public double TrimStart { get; set; }

    public double TrimEnd { get; set; }

    /// <summary>1 plays as fast as it was shot; 0.25 stretches a film that was shot four times too fast.</summary>
    public double Speed { get; set; } = 1;

    /// <summary>Where it was shot from, camera JSON; empty until points were clicked.</summary>
    public string Camera { get; set; } = string.Empty;
}
