namespace Eidolon.Studio.Services;

/// <summary>How this studio was started.</summary>
public sealed record StudioOptions(string DataFolder)
{
    public string Database => Path.Combine(DataFolder, "studio.db");

    public string JobDatabase => Path.Combine(DataFolder, "jobs.db");

    /// <summary>Films, exports and figures.</summary>
    public string Blobs => Path.Combine(DataFolder, "blobs");

    /// <summary>Results of Ledger entries: can be thrown away at any time.</summary>
    public string Results => Path.Combine(DataFolder, "results");

    /// <summary>Bytes of results on the disk, least used first out.</summary>
    public long ResultLimit { get; init; } = 24L << 30;

    /// <summary>Largest file that can be brought in, bytes.</summary>
    public const long UploadLimit = 256L << 20;
}
