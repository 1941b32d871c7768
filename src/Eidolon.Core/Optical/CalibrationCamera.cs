namespace Eidolon.Core.Optical;

/// <summary>How one camera came out of a calibration.</summary>
/// <param name="Sightings">Pictures of the wand that were used.</param>
/// <param name="ResidualPixels">RMS a coordinate.</param>
/// <param name="Coverage">Share of the picture (8 × 6 fields) in which the wand was seen, 0…1.</param>
public sealed record CalibrationCamera(string Name, int Sightings, double ResidualPixels, double Coverage);
