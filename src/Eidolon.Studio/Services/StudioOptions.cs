namespace Eidolon.Studio.Services;

/// <summary>How this studio was started.</summary>
public sealed record StudioOptions(string DataFolder, bool Demo)
{
    public string Database => Path.Combine(DataFolder, "studio.db");

    public string JobDatabase => Path.Combine(DataFolder, "jobs.db");

    /// <summary>Largest file that can be brought in, bytes.</summary>
    public const long UploadLimit = 256L << 20;
}
