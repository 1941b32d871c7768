using Eidolon.Core.Optical;

namespace Eidolon.Devices;

/// <summary>A camera ring as its production describes it; nothing of it is built into the program.</summary>
/// <param name="Cameras">How many.</param>
/// <param name="Rate">Frames a second.</param>
/// <param name="VolumeX">Of the capture volume, metres.</param>
/// <param name="VolumeZ">Of the capture volume, metres.</param>
public sealed record RingDescription(int Cameras, double Rate, double VolumeX, double VolumeZ)
{
    /// <summary>A ring of twelve at 120 frames a second over 8 × 6 m: what a new production begins with.</summary>
    public static RingDescription Usual { get; } = new(12, 120, 8, 6);

    /// <summary>Pixels of a picture of the cameras, and their focal length in pixels, as their maker says.</summary>
    public const int Width = 2048;
    public const int Height = 1536;
    public const double Focal = 1250;

    /// <summary>Most cameras a ring may have: a packet names its camera in one byte.</summary>
    public const int MostCameras = 200;

    /// <summary>The maker's figures of every camera; nothing is known of where they hang.</summary>
    public IReadOnlyList<CameraModel> Nominal =>
        [.. Enumerable.Range(1, Cameras).Select(i => CameraModel.Nominal($"{i}", Width, Height, Focal))];
}
