using Eidolon.Core.Geometry;

namespace Eidolon.Core.Optical.Calibration;

/// <summary>Where the wand was in each frame, from the cameras that are known already.</summary>
internal static class WandPlacer
{
    /// <summary>Wands seen by two known cameras or more, spread evenly over the wave, with the sightings that agree.</summary>
    /// <param name="gate">Farthest that a dot may lie from its place, pixels.</param>
    /// <param name="known">Cameras that may be used; all when null.</param>
    public static (WandPlace[] Places, WandSighting[][] Sightings) Place(
        List<WandSighting> all,
        CameraModel[] cameras,
        Wand wand,
        int most,
        double gate,
        out int leftOut,
        bool[]? known = null
    )
    {
        var frames = all.Where(s => known is null || known[s.Camera]).GroupBy(s => s.Frame).Where(g => g.Count() >= 2).ToArray();
        var places = new List<WandPlace>();
        var sightings = new List<WandSighting[]>();
        var triangulator = new Triangulator(cameras);
        leftOut = 0;
        var stride = Math.Max(1.0, frames.Length / (double)most);
        for (var i = 0.0; i < frames.Length; i += stride)
        {
            var seen = frames[(int)i].ToArray();
            if (One(seen, cameras, wand, gate, triangulator) is var (place, agree))
            {
                leftOut += seen.Length - agree.Length;
                places.Add(place);
                sightings.Add(agree);
            }
            else
            {
                leftOut += seen.Length;
            }
        }

        return ([.. places], [.. sightings]);
    }

    private static (WandPlace, WandSighting[])? One(
        WandSighting[] seen,
        CameraModel[] cameras,
        Wand wand,
        double gate,
        Triangulator triangulator
    )
    {
        Span<Vector3d> dots = stackalloc Vector3d[3];
        while (seen.Length >= 2)
        {
            for (var m = 0; m < 3; m++)
            {
                dots[m] = Dot(seen, m, cameras, triangulator);
            }

            var length = (dots[2] - dots[0]).Length;
            if (double.IsFinite(length) && Math.Abs(length - wand.Length) < 0.25 * wand.Length)
            {
                var place = WandPlace.Of(dots[1], dots[2] - dots[0]);
                var worst = seen.MaxBy(s => Error(s, place, cameras, wand));
                if (Error(worst, place, cameras, wand) <= gate)
                {
                    return (place, seen);
                }

                seen = [.. seen.Where(s => s != worst)];
                continue;
            }

            if (seen.Length == 2)
            {
                return null;
            }

            // The rod's length is wrong: whoever lies farthest from the middle dot goes.
            var centre = dots[1];
            var far = seen.MaxBy(s => double.IsFinite(centre.X) ? Offset(s, centre, cameras) : s.Camera);
            seen = [.. seen.Where(s => s != far)];
        }

        return null;
    }

    private static double Offset(WandSighting s, Vector3d middle, CameraModel[] cameras)
    {
        var (u, v) = RingBundle.Residual(cameras[s.Camera], middle, s.Of(1));
        return (u * u) + (v * v);
    }

    private static double Error(WandSighting s, WandPlace place, CameraModel[] cameras, Wand wand)
    {
        double worst = 0;
        for (var m = 0; m < 3; m++)
        {
            var (u, v) = RingBundle.Residual(cameras[s.Camera], place.At(wand.Offsets[m]), s.Of(m));
            worst = Math.Max(worst, (u * u) + (v * v));
        }

        return Math.Sqrt(worst);
    }

    private static Vector3d Dot(WandSighting[] seen, int m, CameraModel[] cameras, Triangulator t)
    {
        Span<double> x = stackalloc double[t.Lanes],
            y = stackalloc double[t.Lanes],
            w = stackalloc double[t.Lanes],
            h = stackalloc double[6];
        x.Clear();
        y.Clear();
        w.Clear();
        foreach (var s in seen)
        {
            var (u, v) = s.Of(m);
            (x[s.Camera], y[s.Camera]) = cameras[s.Camera].Undistort(u, v);
            w[s.Camera] = 1;
        }

        return t.Solve(x, y, w, h);
    }
}
