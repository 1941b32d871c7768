namespace Eidolon.Storage.Model;

/// <summary>One export: its file and the receipt.</summary>
public sealed class HandOff
{
    public int Id { get; set; }

    public int TakeId { get; set; }

    public required string FileName { get; set; }

    public required string Settings { get; set; }

    /// <summary>Worst joint of the read-back against what was meant, millimetres.</summary>
    public double ReadBackMillimetres { get; set; }

    public int Frames { get; set; }

    public double FrameRate { get; set; }

    public string Checksum { get; set; } = string.Empty;

    public required byte[] Data { get; set; }

    public DateTime CreatedUtc { get; set; }
}
