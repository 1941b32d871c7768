using Eidolon.Core.Geometry;

namespace Eidolon.Core.Optical;

/// <summary>
/// Notices a camera that was knocked: where well-seen points should lie in its picture, it has centroids, but all a little beside.
/// </summary>
public sealed class RingHealth
{
    /// <summary>Neighbours are looked for this far, pixels.</summary>
    private const double Reach = 30;

    /// <summary>A steady shift beyond this is a knock, pixels.</summary>
    private const double KnockedAt = 1.5;

    /// <summary>Points looked at before anything is said.</summary>
    private const int Enough = 400;

    private readonly double[] _shiftX;
    private readonly double[] _shiftY;
    private readonly double[] _weight;
    private readonly double[] _used;
    private readonly double[] _squares;
    private readonly double[] _known;

    internal RingHealth(int cameras)
    {
        (_shiftX, _shiftY, _weight, _used, _squares, _known) = (
            new double[cameras],
            new double[cameras],
            new double[cameras],
            new double[cameras],
            new double[cameras],
            new double[cameras]
        );
    }

    /// <summary>RMS a coordinate of the rays in use, pixels, over the last second or so.</summary>
    public double Residual(int camera) => _known[camera] > 0 ? Math.Sqrt(_squares[camera] / (2 * _known[camera])) : 0;

    /// <summary>Share of well-seen points in its field that the camera contributes to, 0…1.</summary>
    public double Used(int camera) => _weight[camera] > 0 ? _used[camera] / _weight[camera] : 0;

    /// <summary>Mean shift of the camera's picture against what the others say, pixels.</summary>
    public double Shift(int camera) =>
        _weight[camera] > 0 ? Math.Sqrt((_shiftX[camera] * _shiftX[camera]) + (_shiftY[camera] * _shiftY[camera])) / _weight[camera] : 0;

    /// <summary>True when the camera stands elsewhere than it was calibrated.</summary>
    public bool Knocked(int camera) => _weight[camera] >= Enough && Shift(camera) > KnockedAt && Used(camera) < 0.5;

    /// <summary>Compares a point that others see well with each camera's picture.</summary>
    internal void Look(CameraRing ring, PictureSet pictures, Triangulator triangulator, int[] picked, Vector3d p, int rays)
    {
        if (rays < 4)
        {
            return;
        }

        Span<double> x = stackalloc double[triangulator.Lanes],
            y = stackalloc double[triangulator.Lanes],
            depth = stackalloc double[triangulator.Lanes];
        triangulator.Project(p, x, y, depth);
        const double keep = 0.9995;
        for (var c = 0; c < ring.Count; c++)
        {
            var focal = ring.Cameras[c].Focal;
            if (depth[c] < 0.05)
            {
                continue;
            }

            var mine = picked[c] >= 0;
            var k = mine ? picked[c] : pictures.Nearest(c, x[c], y[c], Reach / focal, false, out _);
            if (k < 0)
            {
                continue;
            }

            double dx = (pictures.X[c][k] - x[c]) * focal,
                dy = (pictures.Y[c][k] - y[c]) * focal;
            (_shiftX[c], _shiftY[c], _weight[c], _used[c]) = (
                (_shiftX[c] * keep) + dx,
                (_shiftY[c] * keep) + dy,
                (_weight[c] * keep) + 1,
                (_used[c] * keep) + (mine ? 1 : 0)
            );
            if (mine)
            {
                (_squares[c], _known[c]) = ((_squares[c] * keep) + (dx * dx) + (dy * dy), (_known[c] * keep) + 1);
            }
        }
    }
}
