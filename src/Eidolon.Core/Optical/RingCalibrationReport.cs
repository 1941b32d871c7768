namespace Eidolon.Core.Optical;

/// <summary>What a calibration came to.</summary>
/// <param name="ResidualPixels">RMS a coordinate of all rays, corrected for the unknowns: an estimate of the cameras' noise.</param>
/// <param name="LeftOut">Sightings that did not agree.</param>
public sealed record RingCalibrationReport(
    double ResidualPixels,
    int Wands,
    int Sightings,
    int LeftOut,
    IReadOnlyList<CalibrationCamera> Cameras,
    IReadOnlyList<string> Warnings
);
