using Eidolon.Core.Geometry;
using Eidolon.Core.Optical;

namespace Eidolon.Core.Video;

/// <summary>Where one camera sees one point in one frame.</summary>
/// <param name="Point">Index of the point on the body.</param>
/// <param name="Weight">One over the variance, 1/pixel².</param>
internal readonly record struct FilmSight(CameraModel Camera, int Point, double U, double V, double Weight)
{
    /// <summary>Nearer to the camera than this, or behind it, a place is drawn far off, metres.</summary>
    private const double Nearest = 0.2;

    /// <summary>How far from here a place appears, pixels.</summary>
    public double Miss(Vector3d place)
    {
        var c = (Camera.Rotation * place) + Camera.Translation;
        var z = Math.Max(c.Z, Nearest);
        var (u, v) = Camera.Distort(c.X / z, c.Y / z);
        return Math.Sqrt(((u - U) * (u - U)) + ((v - V) * (v - V)));
    }
}
