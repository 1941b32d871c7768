using Eidolon.Core.Geometry;
using Eidolon.Core.Optical;
using Eidolon.Core.Solving;
using MathNet.Numerics.LinearAlgebra;
using MathNet.Numerics.Optimization;

namespace Eidolon.Core.Video;

/// <summary>Where a film was shot from when nobody says so: from someone of known height who stands and walks on the floor y = 0.</summary>
internal static class FilmPlacement
{
    /// <summary>Frames that are looked at, at most, and those in which somebody stands that are needed.</summary>
    private const int MostFrames = 160,
        LeastStanding = 8;

    /// <summary>A standing figure's head is within so many pixels of where it should be, on a picture 1920 wide.</summary>
    private const double Tolerance = 14;

    /// <summary>The height, pitch and roll of a camera over the floor; its place and heading are free, it stands over the origin and looks along +Z.</summary>
    /// <exception cref="RefusedException">Nobody stands upright in it for long enough.</exception>
    public static CameraModel FromFigure(FilmTake film, CameraModel camera, FilmBody body)
    {
        var standing = Standing(film);
        if (standing.Count < LeastStanding)
        {
            throw new RefusedException("the camera's place is not given, and nobody is seen from head to foot in enough frames to find it");
        }

        var ankle = body.RestHeight(0);
        var head = body.Points.First(p => p.Name == "Crown");
        var crown = body.Skeleton.RestPositions[body.Skeleton.IndexOf(head.Joint)].Y + (head.Place.Y * body.Stature);
        var best = (Camera: camera, Cost: double.PositiveInfinity);
        foreach (var high in new[] { 0.7, 1.4, 2.4, 4.0 })
        {
            foreach (var pitch in new[] { -0.05, 0.1, 0.3, 0.6 })
            {
                var found = Refine(camera, standing, [high, pitch, 0], ankle, crown);
                best = found.Cost < best.Cost ? found : best;
            }
        }

        return double.IsFinite(best.Cost)
            ? best.Camera
            : throw new RefusedException("no place of the camera fits the figure and the floor: give its rotation and translation");
    }

    /// <summary>A further film's camera from the body's motion as the others have it, and when it began.</summary>
    /// <exception cref="RefusedException">No place of the camera fits the motion.</exception>
    public static (CameraModel Camera, double Offset) FromMotion(
        FilmBody body,
        FilmClock clock,
        ModelPose[] poses,
        int film,
        double mostOffset
    )
    {
        var solver = new FilmFrame(body);
        var every = Math.Max(1, poses.Length / 40);
        var best = (Camera: clock.Cameras[film], Offset: 0.0, Rms: double.PositiveInfinity);
        for (var offset = -mostOffset; offset <= mostOffset + 1e-9; offset += mostOffset / 10)
        {
            var (places, pixels) = (new List<Vector3d>(), new List<(double U, double V)>());
            for (var f = 0; f < poses.Length; f += every)
            {
                var markers = solver.Place(poses[f]).ToArray();
                foreach (var s in clock.Of(film, f, offset).Where(s => s.Point % 3 == 0))
                {
                    places.Add(markers[s.Point]);
                    pixels.Add((s.U, s.V));
                }
            }

            if (places.Count < FilmCamera.Fewest)
            {
                continue;
            }

            try
            {
                var (camera, rms) = FilmCamera.Locate(places, pixels, clock.Cameras[film].Width, clock.Cameras[film].Height);
                best = rms < best.Rms ? (camera with { Name = clock.Cameras[film].Name }, offset, rms) : best;
            }
            catch (RefusedException)
            {
                // No camera sees all points with this start; another one is tried.
            }
        }

        return double.IsFinite(best.Rms)
            ? (best.Camera, best.Offset)
            : throw new RefusedException(
                $"film {film + 1}: no place of its camera fits the performance: give its rotation and translation"
            );
    }

    private static List<(double FootU, double FootV, double HeadU, double HeadV)> Standing(FilmTake film)
    {
        int crown = film.IndexOf("Crown"),
            left = film.IndexOf("AnkleL"),
            right = film.IndexOf("AnkleR");
        var all = new List<(double, double, double, double)>();
        var every = Math.Max(1, film.FrameCount / MostFrames);
        for (var f = 0; f < film.FrameCount && crown >= 0; f += every)
        {
            var (h, l, r) = (film.At(f, crown), film.At(f, left), film.At(f, right));
            if (h.Confidence > 0.5 && l.Confidence > 0.4 && r.Confidence > 0.4)
            {
                all.Add(((l.U + r.U) / 2, (l.V + r.V) / 2, h.U, h.V));
            }
        }

        return all;
    }

    private static (CameraModel Camera, double Cost) Refine(
        CameraModel camera,
        List<(double FootU, double FootV, double HeadU, double HeadV)> seen,
        double[] start,
        double ankle,
        double crown
    )
    {
        var scale = camera.Width / 1920.0 * Tolerance;
        // Geman and McClure's loss as residuals: someone who sits or bends counts for nothing.
        Vector<double> Residuals(Vector<double> p, Vector<double> x)
        {
            var own = Placed(camera, p[0], p[1], p[2]);
            return Vector<double>.Build.Dense(seen.Count, i =>
            {
                var off = Off(own, seen[i], ankle, crown) / scale;
                return double.IsFinite(off) ? off / Math.Sqrt(1 + (off * off)) : 1;
            });
        }

        try
        {
            var objective = ObjectiveFunction.NonlinearModel(
                Residuals,
                Vector<double>.Build.Dense(seen.Count, i => i),
                Vector<double>.Build.Dense(seen.Count),
                accuracyOrder: 2
            );
            var found = new LevenbergMarquardtMinimizer(maximumIterations: 80)
                .FindMinimum(objective, Vector<double>.Build.DenseOfArray(start))
                .MinimizingPoint;
            var residuals = Residuals(found, found);
            var fits = residuals.Count(r => Math.Abs(r) < 0.7);
            return found[0] is > 0.1 and < 12 && Math.Abs(found[1]) < 1.4 && fits >= LeastStanding
                ? (Placed(camera, found[0], found[1], found[2]), residuals.DotProduct(residuals))
                : (camera, double.PositiveInfinity);
        }
        catch (MathNet.Numerics.NonConvergenceException)
        {
            return (camera, double.PositiveInfinity);
        }
    }

    /// <summary>How far the head is from over the feet, pixels.</summary>
    private static double Off(CameraModel camera, (double FootU, double FootV, double HeadU, double HeadV) s, double ankle, double crown)
    {
        var (x, y) = camera.Undistort(s.FootU, s.FootV);
        var ray = camera.Rotation.Transposed * new Vector3d(x, y, 1);
        var t = (ankle - camera.Position.Y) / ray.Y;
        if (!(t is > 0.3 and < 60))
        {
            return double.NaN;
        }

        var foot = camera.Position + (ray * t);
        var c = (camera.Rotation * (foot with { Y = crown })) + camera.Translation;
        if (c.Z < 0.1)
        {
            return double.NaN;
        }

        var (u, v) = camera.Distort(c.X / c.Z, c.Y / c.Z);
        return Math.Sqrt(((u - s.HeadU) * (u - s.HeadU)) + ((v - s.HeadV) * (v - s.HeadV)));
    }

    /// <summary>At a height, looking along +Z, pitched down and rolled, radians.</summary>
    private static CameraModel Placed(CameraModel camera, double height, double pitch, double roll)
    {
        var level = camera.LookingAt(new(0, height, 0), new(0, height - Math.Tan(Math.Clamp(pitch, -1.5, 1.5)), 1));
        var turn = Matrix3d.FromRotationVector(new(0, 0, roll));
        return level with { Rotation = turn * level.Rotation, Translation = turn * level.Translation };
    }
}
