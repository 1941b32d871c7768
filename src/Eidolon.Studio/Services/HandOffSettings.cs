namespace Eidolon.Studio.Services;

/// <summary>What one export writes.</summary>
public sealed record HandOffSettings
{
    /// <summary>bvh or glb.</summary>
    public string Format { get; set; } = "glb";

    public int Start { get; set; }

    /// <summary>Last frame, inclusive.</summary>
    public int End { get; set; } = int.MaxValue;

    public double Rate { get; set; } = 30;

    /// <summary>m, cm, mm or in (BVH).</summary>
    public string Units { get; set; } = "cm";

    public string Up { get; set; } = "Y";

    public bool InPlace { get; set; }

    public bool RestFrame { get; set; }

    /// <summary>The track whose motion it is; 0 for all of them, a file each.</summary>
    public int Track { get; set; }
}
