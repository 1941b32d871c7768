namespace Eidolon.Studio.Services;

/// <summary>How this studio was started.</summary>
public sealed record StudioOptions(string DataFolder)
{
    public string Database => Path.Combine(DataFolder, "studio.db");

    public string JobDatabase => Path.Combine(DataFolder, "jobs.db");

    /// <summary>Films, exports and figures.</summary>
    public string Blobs => Path.Combine(DataFolder, "blobs");

    /// <summary>Keys that pages' tokens are made with.</summary>
    public string Keys => Path.Combine(DataFolder, "keys");

    /// <summary>Results of Ledger entries: can be thrown away at any time.</summary>
    public string Results => Path.Combine(DataFolder, "results");

    /// <summary>Bytes of results on the disk, least used first out.</summary>
    public long ResultLimit { get; init; } = 24L << 30;

    /// <summary>Free bytes below which every page says that the disk gets full.</summary>
    public long LowRoom { get; init; } = 4L << 30;

    /// <summary>Free bytes that are never used up: nothing large is written below it.</summary>
    public long LeastRoom { get; init; } = 256L << 20;

    /// <summary>Largest log of one day, bytes.</summary>
    public const long LogLimit = 64L << 20;

    /// <summary>Largest file that can be brought in, bytes.</summary>
    public const long UploadLimit = 256L << 20;
}
