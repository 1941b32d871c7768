namespace Eidolon.Core.Optical;

/// <summary>The calibrated cameras of a capture volume.</summary>
/// <param name="ReprojectionPixels">RMS a coordinate of the calibration, pixels; 0 when it is not known.</param>
public sealed record CameraRing(IReadOnlyList<CameraModel> Cameras, double ReprojectionPixels = 0, DateTime? CalibratedUtc = null)
{
    /// <summary>Cameras.</summary>
    public int Count => Cameras.Count;
}
