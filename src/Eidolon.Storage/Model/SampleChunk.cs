namespace Eidolon.Storage.Model;

/// <summary>A run of samples of one stream, little-endian; its hash is checked at every read.</summary>
public sealed class SampleChunk
{
    public int Id { get; set; }

    public int StreamId { get; set; }

    public int FirstFrame { get; set; }

    public int FrameCount { get; set; }

    /// <summary>XxHash64 of <see cref="Data"/>.</summary>
    public long Hash { get; set; }

    public required byte[] Data { get; set; }
}
