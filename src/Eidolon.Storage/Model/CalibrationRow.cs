namespace Eidolon.Storage.Model;

/// <summary>A version of the camera ring's calibration. Written once: a take keeps the version it was recorded with.</summary>
public sealed class CalibrationRow
{
    public int Id { get; set; }

    public int ProductionId { get; set; }

    public DateTime MadeUtc { get; set; }

    /// <summary>The cameras as JSON (see CameraRingJson).</summary>
    public required string Cameras { get; set; }

    /// <summary>Noise of the rays, pixels.</summary>
    public double ResidualPixels { get; set; }

    /// <summary>How it came out, camera by camera, as JSON.</summary>
    public string Report { get; set; } = "{}";

    /// <summary>When floor and axes were set; null while they are not.</summary>
    public DateTime? GroundUtc { get; set; }
}
