namespace Eidolon.Studio.Live;

/// <summary>How the calibration of the ring goes.</summary>
/// <param name="Seconds">Of the wave so far.</param>
/// <param name="Progress">Of the working out, 0…1.</param>
public sealed record RingPreparationStatus(
    string State,
    string Message,
    double Seconds,
    double Longest,
    double Progress,
    IReadOnlyList<RingPreparationStatus.Camera> Cameras
)
{
    /// <summary>One camera: pictures with the wand, share of its picture covered, which of 8 × 6 fields.</summary>
    public sealed record Camera(string Name, int Sightings, double Coverage, IReadOnlyList<bool> Fields);
}
