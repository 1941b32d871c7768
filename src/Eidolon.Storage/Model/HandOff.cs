namespace Eidolon.Storage.Model;

/// <summary>One export: its file and the receipt.</summary>
public sealed class HandOff
{
    public int Id { get; set; }

    public int SceneId { get; set; }

    /// <summary>Whose motion it is: the character or performer.</summary>
    public int SubjectId { get; set; }

    public required string FileName { get; set; }

    public required string Settings { get; set; }

    /// <summary>Worst joint of the read-back against what was meant, millimetres.</summary>
    public double ReadBackMillimetres { get; set; }

    /// <summary>What it was made of and how every channel compares, as JSON; empty for a file of before.</summary>
    public string Receipt { get; set; } = string.Empty;

    public int Frames { get; set; }

    public double FrameRate { get; set; }

    public string Checksum { get; set; } = string.Empty;

    public int BlobId { get; set; }

    /// <summary>Bytes.</summary>
    public long Length { get; set; }

    public DateTime CreatedUtc { get; set; }
}
