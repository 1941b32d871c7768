using Eidolon.Core.Geometry;

namespace Eidolon.Core.Optical;

/// <summary>
/// Makes 3D points of the centroids of one frame after the other: points already followed are looked for where they should be;
/// what is left over is searched for new points. Not thread-safe.
/// </summary>
/// <remarks>Follow first, search after: Guerra-Filho, "Optical Motion Capture: Theory and Implementation", 2005.</remarks>
public sealed class FrameReconstructor
{
    private readonly CameraRing _ring;
    private readonly ReconstructOptions _options;
    private readonly PictureSet _pictures;
    private readonly Triangulator _triangulator;
    private readonly PointSearch _search;
    private readonly List<Track> _tracks = [];
    private readonly List<TrackedPoint> _points = [];
    private readonly double[] _x;
    private readonly double[] _y;
    private readonly double[] _depth;
    private readonly double[] _seen;
    private readonly double[] _ox;
    private readonly double[] _oy;
    private readonly double[] _residual;
    private readonly double[] _information = new double[6];
    private int _nextId = 1;

    /// <summary>For a calibrated ring.</summary>
    public FrameReconstructor(CameraRing ring, ReconstructOptions? options = null)
    {
        (_ring, _options) = (ring, (options ?? new ReconstructOptions()).Checked());
        _pictures = new PictureSet(ring.Cameras);
        _triangulator = new Triangulator(ring.Cameras);
        _search = new PointSearch(ring, _pictures, _triangulator, _options);
        var n = _triangulator.Lanes;
        (_x, _y, _depth, _seen, _ox, _oy, _residual) = (
            new double[n],
            new double[n],
            new double[n],
            new double[n],
            new double[n],
            new double[n],
            new double[n]
        );
        Health = new RingHealth(ring.Count);
    }

    /// <summary>How well each camera agrees with the others.</summary>
    public RingHealth Health { get; }

    /// <summary>The points of the last frame.</summary>
    public IReadOnlyList<TrackedPoint> Points => _points;

    /// <summary>Gives one camera's centroids of the coming frame, pixels; a camera that sent nothing gets empty spans.</summary>
    public void Load(int camera, ReadOnlySpan<float> u, ReadOnlySpan<float> v) => _pictures.Load(camera, u, v);

    /// <summary>Works on the frame that was loaded; the result is in <see cref="Points"/>.</summary>
    public void Step()
    {
        Claim();
        foreach (var t in _tracks)
        {
            Follow(t);
        }

        foreach (var found in _search.Find(_nextId))
        {
            Adopt(found);
        }

        _tracks.RemoveAll(t => t.Missing > _options.BridgeFrames || (t.Missing > 0 && t.Age < 3));
        _points.Clear();
        foreach (var t in _tracks)
        {
            if (t.Missing == 0)
            {
                _points.Add(new TrackedPoint(t.Id, t.Position.ToSingle(), t.Rays, t.Age, t.Cameras));
            }
        }
    }

    /// <summary>Every track bids for the nearest centroid in each picture; the nearest bidder gets it.</summary>
    private void Claim()
    {
        for (var i = 0; i < _tracks.Count; i++)
        {
            var t = _tracks[i];
            t.Foresee();
            _triangulator.Project(t.Foreseen, _x, _y, _depth);
            for (var c = 0; c < _ring.Count; c++)
            {
                t.Picked[c] = -1;
                if (_depth[c] < 0.05)
                {
                    continue;
                }

                var k = _pictures.Nearest(c, _x[c], _y[c], _options.GatePixels / _ring.Cameras[c].Focal, false, out var d);
                if (k >= 0)
                {
                    t.Picked[c] = k;
                    if (d < _pictures.Distance[c][k])
                    {
                        (_pictures.Distance[c][k], _pictures.Owner[c][k]) = (d, i);
                    }
                }
            }

            t.Index = i;
        }
    }

    private void Follow(Track t)
    {
        var rays = 0;
        Array.Clear(_seen);
        for (var c = 0; c < _ring.Count; c++)
        {
            var k = t.Picked[c];
            if (k >= 0 && _pictures.Owner[c][k] == t.Index)
            {
                (_ox[c], _oy[c], _seen[c]) = (_pictures.X[c][k], _pictures.Y[c][k], 1);
                rays++;
            }
            else
            {
                t.Picked[c] = -1;
            }
        }

        var p = t.Foreseen;
        if (!Settle(t, ref p, ref rays))
        {
            Release(t);
            t.Missing++;
            return;
        }

        // What the foreseen place missed may lie beside the true one.
        var more = Gather(t, p);
        if (more > 0)
        {
            rays += more;
            var better = p;
            if (!Settle(t, ref better, ref rays))
            {
                Release(t);
                t.Missing++;
                return;
            }

            p = better;
        }

        t.Accept(p, rays);
        Health.Look(_ring, _pictures, _triangulator, t.Picked, p, rays);
    }

    /// <summary>Fits the point and drops the worst ray until all agree. False when too few are left or they hardly cross.</summary>
    private bool Settle(Track t, ref Vector3d p, ref int rays)
    {
        while (rays >= 2)
        {
            var q = _triangulator.Refine(p, _ox, _oy, _seen, _information);
            if (!double.IsFinite(q.X))
            {
                return false;
            }

            _triangulator.Residuals(q, _ox, _oy, _residual);
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
                p = q;
                // Nearly parallel rays do not tell a place: one pixel may be worth two centimetres at most.
                return rays > 2 || (_information[0] > 2500 && _information[3] > 2500 && _information[5] > 2500 && Determined());
            }

            _seen[worst] = 0;
            var k = t.Picked[worst];
            _pictures.Owner[worst][k] = -1;
            t.Picked[worst] = -1;
            rays--;
        }

        return false;
    }

    /// <summary>True when no direction of the point is looser than two centimetres a pixel.</summary>
    private bool Determined()
    {
        double a = _information[0],
            b = _information[1],
            c = _information[2],
            d = _information[3],
            e = _information[4],
            f = _information[5];
        var det = (a * ((d * f) - (e * e))) - (b * ((b * f) - (c * e))) + (c * ((b * e) - (c * d)));
        var trace = a + d + f;
        // The smallest eigenvalue is at least 4·det / trace².
        return 4 * det / (trace * trace) > 2500;
    }

    private int Gather(Track t, Vector3d p)
    {
        _triangulator.Project(p, _x, _y, _depth);
        var more = 0;
        for (var c = 0; c < _ring.Count; c++)
        {
            if (_seen[c] > 0 || _depth[c] < 0.05)
            {
                continue;
            }

            var k = _pictures.Nearest(c, _x[c], _y[c], _options.TolerancePixels / _ring.Cameras[c].Focal, true, out _);
            if (k >= 0)
            {
                _pictures.Owner[c][k] = t.Index;
                t.Picked[c] = k;
                (_ox[c], _oy[c], _seen[c]) = (_pictures.X[c][k], _pictures.Y[c][k], 1);
                more++;
            }
        }

        return more;
    }

    private void Release(Track t)
    {
        for (var c = 0; c < _ring.Count; c++)
        {
            if (t.Picked[c] >= 0)
            {
                _pictures.Owner[c][t.Picked[c]] = -1;
                t.Picked[c] = -1;
            }
        }
    }

    /// <summary>A point that was searched for is an old acquaintance when one went missing nearby, otherwise a new one.</summary>
    private void Adopt(FoundPoint found)
    {
        Track? near = null;
        var best = double.MaxValue;
        foreach (var t in _tracks)
        {
            if (t.Missing == 0)
            {
                continue;
            }

            var reach = (t.Age < 2 ? 0.09 : 0.025) + (0.012 * t.Missing);
            var d = (t.Foreseen - found.Position).Length;
            if (d < reach && d < best)
            {
                (near, best) = (t, d);
            }
        }

        if (near is null)
        {
            near = new Track(_nextId++, _ring.Count, found.Position) { Missing = 1 };
            _tracks.Add(near);
        }

        found.Picked.CopyTo(near.Picked, 0);
        near.Accept(found.Position, found.Rays);
    }

    private sealed class Track(int id, int cameras, Vector3d at)
    {
        private Vector3d _velocity;

        public int Id => id;

        public int Index { get; set; }

        public int[] Picked { get; } = new int[cameras];

        public Vector3d Position { get; private set; } = at;

        public Vector3d Foreseen { get; private set; } = at;

        public int Missing { get; set; }

        public int Rays { get; private set; }

        public int Age { get; private set; }

        /// <summary>A bit for each camera that saw it.</summary>
        public uint Cameras
        {
            get
            {
                uint bits = 0;
                for (var c = 0; c < Math.Min(32, Picked.Length); c++)
                {
                    bits |= Picked[c] >= 0 ? 1u << c : 0;
                }

                return bits;
            }
        }

        public void Foresee() => Foreseen = Position + (_velocity * (Missing + 1));

        public void Accept(Vector3d p, int rays)
        {
            if (Age > 0)
            {
                _velocity = (p - Position) * (1.0 / (Missing + 1));
            }

            (Position, Rays, Missing) = (p, rays, 0);
            Age++;
        }
    }
}
