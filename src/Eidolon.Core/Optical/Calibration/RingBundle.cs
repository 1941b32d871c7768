using Eidolon.Core.Fitting;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Optical.Calibration;

/// <summary>
/// Joint fit of all cameras and all wands, the wands eliminated (Schur complement). A wand is rigid: its
/// middle and its direction are free (5), its lengths are not, which gives the scale. A camera has 11: turn, place, focal length,
/// centre, k1, k2.
/// </summary>
/// <remarks>Triggs et al., "Bundle Adjustment: A Modern Synthesis", 2000, section 6.1; Huber weights.</remarks>
internal sealed class RingBundle : ILeastSquares
{
    private const int CameraSize = 11;
    private const int WandSize = 5;
    private readonly double[] _offsets;
    private readonly CameraModel[] _nominal;
    private readonly CameraModel[] _cameras;
    private readonly WandPlace[] _wands;
    private readonly WandSighting[][] _sightings;
    private readonly bool _lens;
    private readonly double _huber;
    private BundleSystem? _system;
    private CameraModel[] _triedCameras = [];
    private WandPlace[] _triedWands = [];

    /// <param name="sightings">Those of each wand.</param>
    /// <param name="lens">False keeps focal length, centre and distortion.</param>
    /// <param name="huber">Residuals beyond this count less, pixels.</param>
    public RingBundle(
        Wand wand,
        CameraModel[] nominal,
        CameraModel[] cameras,
        WandPlace[] wands,
        WandSighting[][] sightings,
        bool lens,
        double huber
    )
    {
        (_offsets, _nominal, _cameras, _wands, _sightings, _lens, _huber) = (wand.Offsets, nominal, cameras, wands, sightings, lens, huber);
    }

    /// <summary>Runs to convergence; cameras and wands are changed in place.</summary>
    public FitReport Solve(int steps, CancellationToken cancel) =>
        LevenbergMarquardt.Run(this, new FitOptions { Steps = steps, Damping = 1e-3 }, cancel);

    double ILeastSquares.Cost() => Cost(_cameras, _wands);

    void ILeastSquares.Linearise() => _system = Build();

    double? ILeastSquares.Try(double damping)
    {
        if (_system?.Solve(damping) is not var (cameras, wands))
        {
            return null;
        }

        _triedCameras = [.. _cameras.Select((c, i) => Moved(c, cameras.AsSpan(i * CameraSize, CameraSize)))];
        _triedWands = [.. _wands.Select((w, i) => w.Moved(wands.AsSpan(i * WandSize, WandSize)))];
        return Cost(_triedCameras, _triedWands);
    }

    void ILeastSquares.Accept()
    {
        _triedCameras.CopyTo(_cameras, 0);
        _triedWands.CopyTo(_wands, 0);
    }

    void ILeastSquares.Reject() { }

    /// <summary>Residual of one dot, pixels.</summary>
    public static (double U, double V) Residual(CameraModel camera, Vector3d point, (float U, float V) seen)
    {
        var c = (camera.Rotation * point) + camera.Translation;
        if (c.Z < 0.05)
        {
            return (1e3, 1e3);
        }

        var (u, v) = camera.Distort(c.X / c.Z, c.Y / c.Z);
        return (u - seen.U, v - seen.V);
    }

    private CameraModel Moved(CameraModel c, ReadOnlySpan<double> d)
    {
        var turned = c with
        {
            Rotation = Matrix3d.FromRotationVector(new Vector3d(d[0], d[1], d[2])) * c.Rotation,
            Translation = c.Translation + new Vector3d(d[3], d[4], d[5]),
        };
        return _lens
            ? turned with
            {
                Focal = c.Focal + d[6],
                CentreX = c.CentreX + d[7],
                CentreY = c.CentreY + d[8],
                K1 = c.K1 + d[9],
                K2 = c.K2 + d[10],
            }
            : turned;
    }

    private double Cost(CameraModel[] cameras, WandPlace[] wands)
    {
        double sum = 0;
        for (var w = 0; w < wands.Length; w++)
        {
            foreach (var s in _sightings[w])
            {
                for (var m = 0; m < 3; m++)
                {
                    var (u, v) = Residual(cameras[s.Camera], wands[w].At(_offsets[m]), s.Of(m));
                    var r = Math.Sqrt((u * u) + (v * v));
                    sum += r <= _huber ? r * r : (2 * _huber * r) - (_huber * _huber);
                }
            }
        }

        for (var c = 0; c < cameras.Length; c++)
        {
            foreach (var (value, spread) in Priors(c, cameras[c]))
            {
                sum += value * value / (spread * spread);
            }
        }

        return sum;
    }

    /// <summary>What a maker's figure is worth: difference from it and its spread, parameters 6 to 10.</summary>
    private (double Value, double Spread)[] Priors(int c, CameraModel camera) =>
        [
            (camera.Focal - _nominal[c].Focal, 0.05 * _nominal[c].Focal),
            (camera.CentreX - _nominal[c].CentreX, 30),
            (camera.CentreY - _nominal[c].CentreY, 30),
            (camera.K1 - _nominal[c].K1, 0.3),
            (camera.K2 - _nominal[c].K2, 0.3),
        ];

    private BundleSystem Build()
    {
        var system = new BundleSystem(_cameras.Length, CameraSize, _wands.Length, WandSize);
        Span<double> ju = stackalloc double[CameraSize + WandSize],
            jv = stackalloc double[CameraSize + WandSize];
        for (var w = 0; w < _wands.Length; w++)
        {
            foreach (var s in _sightings[w])
            {
                for (var m = 0; m < 3; m++)
                {
                    var (u, v) = Jacobian(_cameras[s.Camera], _wands[w], _offsets[m], s.Of(m), ju, jv);
                    var r = Math.Sqrt((u * u) + (v * v));
                    var weight = r <= _huber ? 1 : _huber / r;
                    system.Add(s.Camera, w, ju, u, weight);
                    system.Add(s.Camera, w, jv, v, weight);
                }
            }
        }

        for (var c = 0; c < _cameras.Length; c++)
        {
            var priors = Priors(c, _cameras[c]);
            for (var k = 0; k < 5; k++)
            {
                system.AddPrior(c, 6 + k, priors[k].Value, 1 / (priors[k].Spread * priors[k].Spread));
            }
        }

        // The first camera holds the world still.
        for (var k = 0; k < 6; k++)
        {
            system.AddPrior(0, k, 0, 1e12);
        }

        return system;
    }

    private (double U, double V) Jacobian(
        CameraModel c,
        WandPlace wand,
        double offset,
        (float U, float V) seen,
        Span<double> ju,
        Span<double> jv
    )
    {
        ju.Clear();
        jv.Clear();
        var point = wand.At(offset);
        var turned = c.Rotation * point;
        var p = turned + c.Translation;
        if (p.Z < 0.05)
        {
            return (1e3, 1e3);
        }

        double iz = 1 / p.Z,
            x = p.X * iz,
            y = p.Y * iz,
            r2 = (x * x) + (y * y),
            d = 1 + (r2 * (c.K1 + (c.K2 * r2))),
            e = c.K1 + (2 * c.K2 * r2);
        double ux = c.Focal * (d + (2 * x * x * e)),
            uy = c.Focal * 2 * x * y * e,
            vy = c.Focal * (d + (2 * y * y * e));
        // Rows of d(u, v) / d(point in the camera).
        var du = new Vector3d(ux * iz, uy * iz, -((ux * x) + (uy * y)) * iz);
        var dv = new Vector3d(uy * iz, vy * iz, -((uy * x) + (vy * y)) * iz);
        // d(ω × q)·g = ω · (q × g).
        Put(ju, 0, Vector3d.Cross(turned, du));
        Put(jv, 0, Vector3d.Cross(turned, dv));
        Put(ju, 3, du);
        Put(jv, 3, dv);
        if (_lens)
        {
            (ju[6], jv[6], ju[7], jv[8]) = (x * d, y * d, 1, 1);
            (ju[9], jv[9], ju[10], jv[10]) = (c.Focal * x * r2, c.Focal * y * r2, c.Focal * x * r2 * r2, c.Focal * y * r2 * r2);
        }

        var back = c.Rotation.Transposed;
        Vector3d wu = back * du,
            wv = back * dv;
        Put(ju, CameraSize, wu);
        Put(jv, CameraSize, wv);
        (ju[CameraSize + 3], ju[CameraSize + 4]) = (offset * Vector3d.Dot(wu, wand.Side), offset * Vector3d.Dot(wu, wand.Up));
        (jv[CameraSize + 3], jv[CameraSize + 4]) = (offset * Vector3d.Dot(wv, wand.Side), offset * Vector3d.Dot(wv, wand.Up));
        return ((c.Focal * x * d) + c.CentreX - seen.U, (c.Focal * y * d) + c.CentreY - seen.V);
    }

    private static void Put(Span<double> j, int at, Vector3d v) => (j[at], j[at + 1], j[at + 2]) = (v.X, v.Y, v.Z);
}
