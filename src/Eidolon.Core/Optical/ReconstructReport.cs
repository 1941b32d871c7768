namespace Eidolon.Core.Optical;

/// <summary>What a reconstruction came to.</summary>
/// <param name="Points">Samples made.</param>
/// <param name="Trajectories">Kept ones.</param>
/// <param name="Dropped">Trajectories thrown away as too short.</param>
/// <param name="MeanRays">Cameras a point.</param>
/// <param name="Cameras">RMS a coordinate in pixels and share of points used, each camera.</param>
/// <param name="Warnings">What cannot be trusted, e.g. a camera that was knocked.</param>
public sealed record ReconstructReport(
    long Points,
    int Trajectories,
    int Dropped,
    double MeanRays,
    IReadOnlyList<(string Name, double ResidualPixels, double Used, bool Knocked)> Cameras,
    IReadOnlyList<string> Warnings
);
