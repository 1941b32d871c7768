using Eidolon.Core.Geometry;

namespace Eidolon.Core.Optical;

/// <summary>The centroids of one frame, undistorted and sorted in each camera, so that a neighbour is found fast.</summary>
internal sealed class PictureSet
{
    /// <summary>Centroids of one camera beyond this are not looked at: a flood must not stop the stage.</summary>
    public const int Most = 1024;

    private readonly IReadOnlyList<CameraModel> _cameras;
    private readonly double[] _keys = new double[Most];
    private readonly double[] _other = new double[Most];

    public PictureSet(IReadOnlyList<CameraModel> cameras)
    {
        _cameras = cameras;
        X = [.. cameras.Select(_ => new double[Most])];
        Y = [.. cameras.Select(_ => new double[Most])];
        Owner = [.. cameras.Select(_ => new int[Most])];
        Distance = [.. cameras.Select(_ => new double[Most])];
        Count = new int[cameras.Count];
    }

    /// <summary>[camera][centroid], direction at unit depth, ascending.</summary>
    public double[][] X { get; }

    public double[][] Y { get; }

    /// <summary>Which track has taken a centroid, −1 for none.</summary>
    public int[][] Owner { get; }

    /// <summary>How near the owner is, squared.</summary>
    public double[][] Distance { get; }

    public int[] Count { get; }

    public void Load(int camera, ReadOnlySpan<float> u, ReadOnlySpan<float> v)
    {
        var model = _cameras[camera];
        var n = Math.Min(u.Length, Most);
        for (var k = 0; k < n; k++)
        {
            (_keys[k], _other[k]) = model.Undistort(u[k], v[k]);
        }

        Array.Sort(_keys, _other, 0, n);
        _keys.AsSpan(0, n).CopyTo(X[camera]);
        _other.AsSpan(0, n).CopyTo(Y[camera]);
        Owner[camera].AsSpan(0, n).Fill(-1);
        Distance[camera].AsSpan(0, n).Fill(double.MaxValue);
        Count[camera] = n;
    }

    /// <summary>The nearest centroid within a gate, −1 when there is none; with <paramref name="freeOnly"/> only those nobody has taken.</summary>
    public int Nearest(int camera, double x, double y, double gate, bool freeOnly, out double squared)
    {
        var xs = X[camera];
        var ys = Y[camera];
        int low = 0,
            high = Count[camera];
        var from = x - gate;
        while (low < high)
        {
            var mid = (low + high) >> 1;
            if (xs[mid] < from)
            {
                low = mid + 1;
            }
            else
            {
                high = mid;
            }
        }

        var best = -1;
        squared = gate * gate;
        for (var k = low; k < Count[camera] && xs[k] <= x + gate; k++)
        {
            double dx = xs[k] - x,
                dy = ys[k] - y;
            var d = (dx * dx) + (dy * dy);
            if (d < squared && (!freeOnly || Owner[camera][k] < 0))
            {
                (best, squared) = (k, d);
            }
        }

        return best;
    }

    /// <summary>Direction of a centroid's ray in the world, unit length.</summary>
    public Vector3d Ray(int camera, int k) =>
        (_cameras[camera].Rotation.Transposed * new Vector3d(X[camera][k], Y[camera][k], 1)).Normalised();
}
