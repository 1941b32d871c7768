using Eidolon.Core.Geometry;

namespace Eidolon.Core.Optical;

/// <summary>Finds new points: rays of two cameras that pass close by each other, then every other camera that agrees.</summary>
/// <remarks>Epipolar candidates, best supported first; each centroid serves one point only.</remarks>
internal sealed class PointSearch
{
    /// <summary>A point so well supported is taken at once.</summary>
    private const int Certain = 5;

    /// <summary>Ray pairs looked at in one frame; more is a flood of false centroids.</summary>
    private const int MostPairs = 3_000_000;

    private readonly CameraRing _ring;
    private readonly PictureSet _pictures;
    private readonly Triangulator _triangulator;
    private readonly ReconstructOptions _options;
    private readonly (Vector3d Low, Vector3d High) _room;
    private readonly Vector3d[] _eyes;
    private readonly List<(int K, Vector3d Ray)>[] _free;
    private readonly double[] _x;
    private readonly double[] _y;
    private readonly double[] _depth;
    private readonly double[] _ox;
    private readonly double[] _oy;
    private readonly double[] _seen;
    private readonly double[] _residual;
    private readonly double[] _information = new double[6];

    public PointSearch(CameraRing ring, PictureSet pictures, Triangulator triangulator, ReconstructOptions options)
    {
        (_ring, _pictures, _triangulator, _options) = (ring, pictures, triangulator, options);
        _eyes = [.. ring.Cameras.Select(c => c.Position)];
        _free = [.. ring.Cameras.Select(_ => new List<(int, Vector3d)>())];
        var n = triangulator.Lanes;
        (_x, _y, _depth, _ox, _oy, _seen, _residual) = (
            new double[n],
            new double[n],
            new double[n],
            new double[n],
            new double[n],
            new double[n],
            new double[n]
        );
        _room = Room(_eyes);
    }

    /// <summary>All new points of the frame; the owners of their centroids are set to <paramref name="owner"/> and beyond.</summary>
    public List<FoundPoint> Find(int owner)
    {
        var found = new List<FoundPoint>();
        for (var c = 0; c < _ring.Count; c++)
        {
            _free[c].Clear();
            for (var k = 0; k < _pictures.Count[c]; k++)
            {
                if (_pictures.Owner[c][k] < 0)
                {
                    _free[c].Add((k, _pictures.Ray(c, k)));
                }
            }
        }

        var doubtful = new List<FoundPoint>();
        var pairs = 0;
        for (var a = 0; a < _ring.Count; a++)
        {
            for (var b = a + 1; b < _ring.Count; b++)
            {
                pairs += _free[a].Count * _free[b].Count;
                if (pairs > MostPairs)
                {
                    break;
                }

                Pair(a, b, owner, found, doubtful);
            }
        }

        foreach (var d in doubtful.OrderByDescending(d => d.Rays))
        {
            // Others may have taken some of its rays in the meantime.
            if (Support(d.Position) is { } again && again.Rays >= _options.MinimumRays)
            {
                Take(again, owner + found.Count, found);
            }
        }

        return found;
    }

    private void Pair(int a, int b, int owner, List<FoundPoint> found, List<FoundPoint> doubtful)
    {
        var between = _eyes[b] - _eyes[a];
        // Tolerance in metres at the far side of the room would be generous nearby; half the distance between is a fair mean.
        var tolerance = _options.TolerancePixels * 4.5 * ((1 / _ring.Cameras[a].Focal) + (1 / _ring.Cameras[b].Focal));
        foreach (var (ka, ra) in _free[a])
        {
            if (_pictures.Owner[a][ka] >= 0)
            {
                continue;
            }

            foreach (var (kb, rb) in _free[b])
            {
                var n = Vector3d.Cross(ra, rb);
                var sine2 = Vector3d.Dot(n, n);
                var off = Vector3d.Dot(between, n);
                if (sine2 < 1e-4 || off * off > tolerance * tolerance * sine2 || _pictures.Owner[b][kb] >= 0)
                {
                    continue;
                }

                // Nearest points of the two rays.
                var s = Vector3d.Dot(Vector3d.Cross(between, rb), n) / sine2;
                var t = Vector3d.Dot(Vector3d.Cross(between, ra), n) / sine2;
                if (s < 0.2 || t < 0.2)
                {
                    continue;
                }

                var mid = (_eyes[a] + (ra * s) + _eyes[b] + (rb * t)) * 0.5;
                if (!InRoom(mid) || Support(mid) is not { } point)
                {
                    continue;
                }

                if (point.Rays >= Certain)
                {
                    Take(point, owner + found.Count, found);
                    if (_pictures.Owner[a][ka] >= 0)
                    {
                        break;
                    }
                }
                else if (point.Rays >= _options.MinimumRays)
                {
                    doubtful.Add(point);
                }
            }
        }
    }

    private void Take(FoundPoint point, int owner, List<FoundPoint> found)
    {
        for (var c = 0; c < _ring.Count; c++)
        {
            if (point.Picked[c] >= 0)
            {
                _pictures.Owner[c][point.Picked[c]] = owner;
            }
        }

        found.Add(point);
    }

    /// <summary>Gathers the free centroids that agree with a place and fits the point; null when fewer than two are left.</summary>
    private FoundPoint? Support(Vector3d place)
    {
        _triangulator.Project(place, _x, _y, _depth);
        Array.Clear(_seen);
        var picked = new int[_ring.Count];
        var rays = 0;
        for (var c = 0; c < _ring.Count; c++)
        {
            picked[c] = -1;
            if (_depth[c] < 0.2)
            {
                continue;
            }

            var k = _pictures.Nearest(c, _x[c], _y[c], 3 * _options.TolerancePixels / _ring.Cameras[c].Focal, true, out _);
            if (k >= 0)
            {
                (picked[c], _ox[c], _oy[c], _seen[c]) = (k, _pictures.X[c][k], _pictures.Y[c][k], 1);
                rays++;
            }
        }

        while (rays >= 2)
        {
            var p = _triangulator.Solve(_ox, _oy, _seen, _information);
            if (!double.IsFinite(p.X) || !InRoom(p))
            {
                return null;
            }

            _triangulator.Residuals(p, _ox, _oy, _residual);
            var worst = -1;
            for (var c = 0; c < _ring.Count; c++)
            {
                if (_seen[c] > 0 && (worst < 0 || _residual[c] > _residual[worst]))
                {
                    worst = c;
                }
            }

            if (_residual[worst] <= _options.TolerancePixels)
            {
                return new FoundPoint(p, rays, picked);
            }

            (_seen[worst], picked[worst]) = (0, -1);
            rays--;
        }

        return null;
    }

    private bool InRoom(Vector3d p) =>
        p.X > _room.Low.X && p.Y > _room.Low.Y && p.Z > _room.Low.Z && p.X < _room.High.X && p.Y < _room.High.Y && p.Z < _room.High.Z;

    /// <summary>Between the cameras and a little beyond; half a metre below the floor at most.</summary>
    private static (Vector3d Low, Vector3d High) Room(Vector3d[] eyes)
    {
        const double beyond = 1;
        return (
            new Vector3d(eyes.Min(e => e.X) - beyond, -0.5, eyes.Min(e => e.Z) - beyond),
            new Vector3d(eyes.Max(e => e.X) + beyond, eyes.Max(e => e.Y) + beyond, eyes.Max(e => e.Z) + beyond)
        );
    }
}
