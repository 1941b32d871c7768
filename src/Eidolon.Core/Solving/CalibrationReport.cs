namespace Eidolon.Core.Solving;

/// <summary>What a calibration found. Residuals in metres, turns in radians.</summary>
/// <param name="TakeFrame">The frame used as the T-pose.</param>
/// <param name="Frames">Frames the bodies was fitted to.</param>
/// <param name="ResidualRms">RMS distance of markers from the fitted body.</param>
/// <param name="Moved">How far each joint turned over the take, by role name.</param>
public sealed record CalibrationReport(
    int TakeFrame,
    int Frames,
    double ResidualRms,
    IReadOnlyDictionary<string, double> Moved,
    IReadOnlyList<string> Warnings
);
