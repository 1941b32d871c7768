namespace Eidolon.Storage.Model;

/// <summary>A production: everything else belongs to one. Its stage is its own: rate, cameras and volume stand here and nowhere else.</summary>
public sealed class Production
{
    public int Id { get; set; }

    public required string Name { get; set; }

    /// <summary>Frames a second of the camera ring.</summary>
    public double FrameRate { get; set; } = 120;

    /// <summary>Cameras of the ring.</summary>
    public int Cameras { get; set; } = 12;

    /// <summary>Size of the capture volume along x, y and z, metres; its floor is centred on the origin.</summary>
    public double VolumeX { get; set; } = 8;

    public double VolumeY { get; set; } = 3;

    public double VolumeZ { get; set; } = 6;

    /// <summary>The marker set that is worn when a slate names none.</summary>
    public int? MarkerSetId { get; set; }

    public List<ShootDay> Days { get; } = [];
}
