namespace Eidolon.Core.Solving;

/// <summary>Residuals of a solve. Lengths in millimetres.</summary>
/// <param name="FrameResiduals">RMS over the seen markers of each frame; NaN where none was seen.</param>
public sealed record SolveReport(
    double Mean,
    double P95,
    double Max,
    IReadOnlyDictionary<string, double> MarkerMeans,
    float[] FrameResiduals,
    float[] MarkerResiduals,
    double FramesPerSecond,
    IReadOnlyList<string> Warnings
);
