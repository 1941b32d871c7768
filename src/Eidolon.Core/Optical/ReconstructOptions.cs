namespace Eidolon.Core.Optical;

/// <summary>How points are made from rays.</summary>
/// <param name="TolerancePixels">Farthest that a centroid may lie from the point it is taken for.</param>
/// <param name="GatePixels">How far from its foreseen place a followed point is looked for.</param>
/// <param name="MinimumRays">Cameras that must agree before a new point is believed; a followed one needs two.</param>
/// <param name="BridgeFrames">Frames that a point may be unseen and still come back as the same one.</param>
/// <param name="MinimumFrames">Shorter trajectories are thrown away as ghosts.</param>
public sealed record ReconstructOptions(
    double TolerancePixels = 1.1,
    double GatePixels = 5,
    int MinimumRays = 3,
    int BridgeFrames = 6,
    int MinimumFrames = 4
)
{
    /// <summary>Clear errors for settings that cannot work.</summary>
    public ReconstructOptions Checked()
    {
        if (
            !(TolerancePixels is > 0 and <= 20)
            || !(GatePixels is > 0 and <= 100)
            || MinimumRays is < 2 or > 64
            || BridgeFrames is < 0 or > 600
            || MinimumFrames is < 1 or > 600
        )
        {
            throw new RefusedException(
                "reconstruction wants a tolerance of 0–20 px, a gate of 0–100 px, at least 2 rays, 0–600 frames to bridge and 1–600 frames at least"
            );
        }

        return this;
    }
}
