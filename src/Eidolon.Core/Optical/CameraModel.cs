using Eidolon.Core.Geometry;

namespace Eidolon.Core.Optical;

/// <summary>
/// A pinhole camera with radial distortion. Camera axes: x right, y down, z forward; Xc = R·X + t;
/// u = f·x·(1 + k1·r² + k2·r⁴) + cx with x = Xc.x / Xc.z, likewise v.
/// </summary>
/// <remarks>Brown, "Close-range camera calibration", 1971; Hartley &amp; Zisserman, "Multiple View Geometry", 2004, section 7.4.</remarks>
/// <param name="Focal">Pixels.</param>
/// <param name="Rotation">World to camera.</param>
/// <param name="Translation">World to camera, metres.</param>
public sealed record CameraModel(
    string Name,
    int Width,
    int Height,
    double Focal,
    double CentreX,
    double CentreY,
    double K1,
    double K2,
    Matrix3d Rotation,
    Vector3d Translation
)
{
    /// <summary>Where the camera stands, metres.</summary>
    public Vector3d Position => (Rotation.Transposed * Translation) * -1;

    /// <summary>It is known where the camera stands; false for one of which only the maker's figures are known.</summary>
    public bool IsPlaced => Rotation != Matrix3d.Identity || Translation != default;

    /// <summary>The direction it looks in, unit length.</summary>
    public Vector3d Forward => Rotation.Transposed * new Vector3d(0, 0, 1);

    /// <summary>A camera of which only the maker's figures are known.</summary>
    public static CameraModel Nominal(string name, int width, int height, double focal) =>
        new(name, width, height, focal, width / 2.0, height / 2.0, 0, 0, Matrix3d.Identity, default);

    /// <summary>A camera at a place that looks at a point, upright.</summary>
    public CameraModel LookingAt(Vector3d eye, Vector3d at)
    {
        var z = (at - eye).Normalised();
        var x = Vector3d.Cross(z, new Vector3d(0, 1, 0)).Normalised();
        var y = Vector3d.Cross(z, x);
        var r = Matrix3d.FromRows(x, y, z);
        return this with { Rotation = r, Translation = (r * eye) * -1 };
    }

    /// <summary>Pixel of a point, metres. False when it lies behind the camera or outside the picture.</summary>
    public bool TryProject(Vector3d point, out double u, out double v)
    {
        var c = (Rotation * point) + Translation;
        u = v = double.NaN;
        if (c.Z < 0.05)
        {
            return false;
        }

        (u, v) = Distort(c.X / c.Z, c.Y / c.Z);
        return u >= 0 && v >= 0 && u < Width && v < Height;
    }

    /// <summary>Pixel of a direction x, y at unit depth.</summary>
    public (double U, double V) Distort(double x, double y)
    {
        var r2 = (x * x) + (y * y);
        var d = 1 + (r2 * (K1 + (K2 * r2)));
        return ((Focal * x * d) + CentreX, (Focal * y * d) + CentreY);
    }

    /// <summary>Direction x, y at unit depth of a pixel; Newton on the radius.</summary>
    public (double X, double Y) Undistort(double u, double v)
    {
        double xd = (u - CentreX) / Focal,
            yd = (v - CentreY) / Focal;
        var rd = Math.Sqrt((xd * xd) + (yd * yd));
        if (rd < 1e-12 || (K1 == 0 && K2 == 0))
        {
            return (xd, yd);
        }

        var r = rd;
        for (var i = 0; i < 6; i++)
        {
            var r2 = r * r;
            var slope = 1 + (r2 * ((3 * K1) + (5 * K2 * r2)));
            if (slope < 0.05)
            {
                break;
            }

            var step = ((r * (1 + (r2 * (K1 + (K2 * r2))))) - rd) / slope;
            r -= step;
            if (Math.Abs(step) < 1e-12)
            {
                break;
            }
        }

        return (xd * r / rd, yd * r / rd);
    }

    /// <summary>The same camera after the world was moved: new = turn·old + move, metres.</summary>
    public CameraModel InMovedWorld(Matrix3d turn, Vector3d move)
    {
        // Xc = R·old + t and old = turnᵀ·(new − move).
        var r = Rotation * turn.Transposed;
        return this with { Rotation = r, Translation = Translation - (r * move) };
    }
}
