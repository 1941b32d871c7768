using System.Numerics;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Optical;

/// <summary>
/// The 3D point that explains what several cameras saw: linear normal equations, then Gauss–Newton on the reprojection.
/// All cameras are worked on at once; those that did not see the point have weight zero. Not thread-safe: one a thread.
/// </summary>
/// <remarks>Hartley &amp; Sturm, "Triangulation", CVIU 68, 1997.</remarks>
public sealed class Triangulator
{
    private readonly CameraArray _cameras;

    /// <summary>For calibrated cameras, in the order dots name them.</summary>
    public Triangulator(IReadOnlyList<CameraModel> cameras) => _cameras = new CameraArray(cameras);

    /// <summary>Length that the spans need: the cameras rounded up to whole vectors.</summary>
    public int Lanes => _cameras.Padded;

    /// <summary>Finds the point, metres; NaN when it is not determined.</summary>
    /// <param name="x">Direction to the right at unit depth, undistorted, one a camera.</param>
    /// <param name="y">Direction down at unit depth.</param>
    /// <param name="seen">1 where the camera saw it, 0 elsewhere (x and y must be finite there too).</param>
    /// <param name="information">Inverse covariance for a noise of one pixel, 1/m²: xx xy xz yy yz zz.</param>
    public Vector3d Solve(
        ReadOnlySpan<double> x,
        ReadOnlySpan<double> y,
        ReadOnlySpan<double> seen,
        Span<double> information,
        int steps = 2
    )
    {
        Span<double> g = stackalloc double[3];
        Linear(x, y, seen, information, g);
        if (!Solve3(information, g, out var p))
        {
            return new Vector3d(double.NaN, double.NaN, double.NaN);
        }

        for (var i = 0; i < steps; i++)
        {
            Normal(p, x, y, seen, information, g);
            if (!Solve3(information, g, out var step))
            {
                return new Vector3d(double.NaN, double.NaN, double.NaN);
            }

            p += step;
        }

        return p;
    }

    /// <summary>Gauss–Newton from a known place nearby; one or two steps are enough from one frame to the next.</summary>
    public Vector3d Refine(
        Vector3d start,
        ReadOnlySpan<double> x,
        ReadOnlySpan<double> y,
        ReadOnlySpan<double> seen,
        Span<double> information,
        int steps = 2
    )
    {
        Span<double> g = stackalloc double[3];
        for (var i = 0; i < steps; i++)
        {
            Normal(start, x, y, seen, information, g);
            if (!Solve3(information, g, out var step))
            {
                return new Vector3d(double.NaN, double.NaN, double.NaN);
            }

            start += step;
        }

        return start;
    }

    /// <summary>Distance between picture and point in each camera, pixels.</summary>
    public void Residuals(Vector3d p, ReadOnlySpan<double> x, ReadOnlySpan<double> y, Span<double> pixels)
    {
        var rows = _cameras.Rows;
        for (var c = 0; c < _cameras.Padded; c += Vector<double>.Count)
        {
            Camera(rows, p, c, out var px, out var py, out _);
            var f = new Vector<double>(_cameras.Focal, c);
            var dx = (px - new Vector<double>(x[c..])) * f;
            var dy = (py - new Vector<double>(y[c..])) * f;
            Vector.SquareRoot((dx * dx) + (dy * dy)).CopyTo(pixels[c..]);
        }
    }

    /// <summary>Where every camera has the point: direction at unit depth, and the depth.</summary>
    public void Project(Vector3d p, Span<double> x, Span<double> y, Span<double> depth)
    {
        for (var c = 0; c < _cameras.Padded; c += Vector<double>.Count)
        {
            Camera(_cameras.Rows, p, c, out var px, out var py, out var z);
            px.CopyTo(x[c..]);
            py.CopyTo(y[c..]);
            z.CopyTo(depth[c..]);
        }
    }

    private static void Camera(double[][] rows, Vector3d p, int c, out Vector<double> x, out Vector<double> y, out Vector<double> z)
    {
        Vector<double> px = new(p.X),
            py = new(p.Y),
            pz = new(p.Z);
        z =
            (new Vector<double>(rows[8], c) * px)
            + (new Vector<double>(rows[9], c) * py)
            + (new Vector<double>(rows[10], c) * pz)
            + new Vector<double>(rows[11], c);
        var inverse = Vector<double>.One / z;
        x =
            (
                (new Vector<double>(rows[0], c) * px)
                + (new Vector<double>(rows[1], c) * py)
                + (new Vector<double>(rows[2], c) * pz)
                + new Vector<double>(rows[3], c)
            ) * inverse;
        y =
            (
                (new Vector<double>(rows[4], c) * px)
                + (new Vector<double>(rows[5], c) * py)
                + (new Vector<double>(rows[6], c) * pz)
                + new Vector<double>(rows[7], c)
            ) * inverse;
    }

    /// <summary>Σ (r0·X + t0 − x (r2·X + t2))² and the same with y: linear in X.</summary>
    private void Linear(ReadOnlySpan<double> x, ReadOnlySpan<double> y, ReadOnlySpan<double> seen, Span<double> h, Span<double> g)
    {
        var rows = _cameras.Rows;
        var sums = new Sums();
        for (var c = 0; c < _cameras.Padded; c += Vector<double>.Count)
        {
            Vector<double> ox = new(x[c..]),
                oy = new(y[c..]),
                w = new(seen[c..]);
            Vector<double> r20 = new(rows[8], c),
                r21 = new(rows[9], c),
                r22 = new(rows[10], c),
                t2 = new(rows[11], c);
            sums.Add(
                new Vector<double>(rows[0], c) - (ox * r20),
                new Vector<double>(rows[1], c) - (ox * r21),
                new Vector<double>(rows[2], c) - (ox * r22),
                (ox * t2) - new Vector<double>(rows[3], c),
                w
            );
            sums.Add(
                new Vector<double>(rows[4], c) - (oy * r20),
                new Vector<double>(rows[5], c) - (oy * r21),
                new Vector<double>(rows[6], c) - (oy * r22),
                (oy * t2) - new Vector<double>(rows[7], c),
                w
            );
        }

        sums.Write(h, g);
    }

    private void Normal(
        Vector3d p,
        ReadOnlySpan<double> x,
        ReadOnlySpan<double> y,
        ReadOnlySpan<double> seen,
        Span<double> h,
        Span<double> g
    )
    {
        var rows = _cameras.Rows;
        var sums = new Sums();
        for (var c = 0; c < _cameras.Padded; c += Vector<double>.Count)
        {
            Camera(rows, p, c, out var px, out var py, out var z);
            // d x / d X = (r0 − x·r2) / z, in pixels times f.
            var scale = new Vector<double>(_cameras.Focal, c) / z;
            var w = new Vector<double>(seen[c..]) * scale * scale;
            Vector<double> r20 = new(rows[8], c),
                r21 = new(rows[9], c),
                r22 = new(rows[10], c);
            sums.Add(
                new Vector<double>(rows[0], c) - (px * r20),
                new Vector<double>(rows[1], c) - (px * r21),
                new Vector<double>(rows[2], c) - (px * r22),
                (new Vector<double>(x[c..]) - px) * z,
                w
            );
            sums.Add(
                new Vector<double>(rows[4], c) - (py * r20),
                new Vector<double>(rows[5], c) - (py * r21),
                new Vector<double>(rows[6], c) - (py * r22),
                (new Vector<double>(y[c..]) - py) * z,
                w
            );
        }

        sums.Write(h, g);
    }

    /// <summary>Solves the symmetric 3×3 system by its adjugate. False when the rays do not determine a point.</summary>
    private static bool Solve3(ReadOnlySpan<double> h, ReadOnlySpan<double> g, out Vector3d p)
    {
        double a = h[0],
            b = h[1],
            c = h[2],
            d = h[3],
            e = h[4],
            f = h[5];
        double c00 = (d * f) - (e * e),
            c01 = (c * e) - (b * f),
            c02 = (b * e) - (c * d);
        var det = (a * c00) + (b * c01) + (c * c02);
        p = default;
        if (!(Math.Abs(det) > 1e-14 * Math.Abs(a * d * f)))
        {
            return false;
        }

        double c11 = (a * f) - (c * c),
            c12 = (b * c) - (a * e),
            c22 = (a * d) - (b * b);
        var s = 1 / det;
        p = new Vector3d(
            ((c00 * g[0]) + (c01 * g[1]) + (c02 * g[2])) * s,
            ((c01 * g[0]) + (c11 * g[1]) + (c12 * g[2])) * s,
            ((c02 * g[0]) + (c12 * g[1]) + (c22 * g[2])) * s
        );
        return double.IsFinite(p.X + p.Y + p.Z);
    }

    /// <summary>Running sums of JᵀWJ and JᵀWr, a vector of cameras at a time.</summary>
    private ref struct Sums
    {
        private Vector<double> _xx,
            _xy,
            _xz,
            _yy,
            _yz,
            _zz,
            _x,
            _y,
            _z;

        public void Add(Vector<double> jx, Vector<double> jy, Vector<double> jz, Vector<double> r, Vector<double> w)
        {
            Vector<double> wx = jx * w,
                wy = jy * w,
                wz = jz * w;
            _xx += wx * jx;
            _xy += wx * jy;
            _xz += wx * jz;
            _yy += wy * jy;
            _yz += wy * jz;
            _zz += wz * jz;
            _x += wx * r;
            _y += wy * r;
            _z += wz * r;
        }

        public readonly void Write(Span<double> h, Span<double> g)
        {
            (h[0], h[1], h[2], h[3], h[4], h[5]) = (
                Vector.Sum(_xx),
                Vector.Sum(_xy),
                Vector.Sum(_xz),
                Vector.Sum(_yy),
                Vector.Sum(_yz),
                Vector.Sum(_zz)
            );
            (g[0], g[1], g[2]) = (Vector.Sum(_x), Vector.Sum(_y), Vector.Sum(_z));
        }
    }
}
