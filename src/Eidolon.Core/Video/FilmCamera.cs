using Eidolon.Core.Geometry;
using Eidolon.Core.Optical;
using MathNet.Numerics.LinearAlgebra;
using MathNet.Numerics.Optimization;

namespace Eidolon.Core.Video;

/// <summary>Where a film was shot from, from a few points clicked in its picture whose places in the take are known.</summary>
/// <remarks>
/// A pinhole with square pixels and its centre in the middle of the picture; seven unknowns. Many starts around the points, so that points in
/// one plane do as well (a person in T-pose, marks on the floor), then Levenberg–Marquardt (Moré 1978) on the pixels.
/// </remarks>
public static class FilmCamera
{
    /// <summary>Points that are needed at least.</summary>
    public const int Fewest = 6;

    private static readonly double[] Focals = [0.8, 1.3, 2.2];
    private static readonly double[] Heights = [0, 0.35];

    /// <summary>The camera and how far the clicked points lie from it on the whole, pixels RMS.</summary>
    /// <param name="places">Metres.</param>
    /// <param name="clicks">Pixels, u to the right and v down, one for each place.</param>
    /// <exception cref="RefusedException">Too few points, or none of the starts leads to a camera that sees them; says what to do.</exception>
    public static (CameraModel Camera, double Rms) Locate(
        IReadOnlyList<Vector3d> places,
        IReadOnlyList<(double U, double V)> clicks,
        int width,
        int height
    )
    {
        if (places.Count != clicks.Count || places.Count < Fewest)
        {
            throw new RefusedException($"{Fewest} points are needed at least, there are {Math.Min(places.Count, clicks.Count)}");
        }

        var middle = places.Aggregate(default(Vector3d), (s, p) => s + p) * (1.0 / places.Count);
        var reach = Math.Sqrt(places.Average(p => Vector3d.Dot(p - middle, p - middle)));
        var (mu, mv) = (clicks.Average(c => c.U), clicks.Average(c => c.V));
        var spread = Math.Sqrt(clicks.Average(c => ((c.U - mu) * (c.U - mu)) + ((c.V - mv) * (c.V - mv))));
        if (reach < 0.1 || spread < 4)
        {
            throw new RefusedException("the points lie too close together: click some far apart, head and both feet for one");
        }

        var starts = new List<(CameraModel Camera, double Rms)>();
        foreach (var f in Focals)
        {
            foreach (var h in Heights)
            {
                for (var turn = 0; turn < 12; turn++)
                {
                    var (focal, angle) = (f * width, turn * Math.PI / 6);
                    var away = focal * reach / spread;
                    var eye = middle + (new Vector3d(Math.Sin(angle) * Math.Cos(h), Math.Sin(h), Math.Cos(angle) * Math.Cos(h)) * away);
                    starts.Add(Refine(CameraModel.Nominal("film", width, height, focal).LookingAt(eye, middle), places, clicks, 12));
                }
            }
        }

        var (camera, rms) = starts.OrderBy(s => s.Rms).Take(12).Select(s => Refine(s.Camera, places, clicks, 200)).MinBy(s => s.Rms);
        return double.IsFinite(rms)
            ? (camera, rms)
            : throw new RefusedException("no camera sees all points so: one of them is probably another joint than was chosen");
    }

    private static (CameraModel Camera, double Rms) Refine(
        CameraModel start,
        IReadOnlyList<Vector3d> places,
        IReadOnlyList<(double U, double V)> clicks,
        int rounds
    )
    {
        var n = clicks.Count;
        var wanted = Vector<double>.Build.Dense(2 * n, i => i % 2 == 0 ? clicks[i / 2].U : clicks[i / 2].V);
        Vector<double> Pixels(Vector<double> p, Vector<double> x)
        {
            var camera = Apply(start, p);
            var pixels = Vector<double>.Build.Dense(2 * n);
            for (var i = 0; i < n; i++)
            {
                var c = (camera.Rotation * places[i]) + camera.Translation;
                // Behind the camera there is no pixel; far off is as good as none.
                var z = Math.Max(c.Z, 0.05);
                (pixels[2 * i], pixels[(2 * i) + 1]) = camera.Distort(c.X / z, c.Y / z);
            }

            return pixels;
        }

        try
        {
            var objective = ObjectiveFunction.NonlinearModel(Pixels, Vector<double>.Build.Dense(2 * n, i => i), wanted, accuracyOrder: 2);
            var found = new LevenbergMarquardtMinimizer(maximumIterations: rounds).FindMinimum(objective, Vector<double>.Build.Dense(7));
            var camera = Apply(start, found.MinimizingPoint);
            double sum = 0;
            for (var i = 0; i < n; i++)
            {
                var c = (camera.Rotation * places[i]) + camera.Translation;
                if (c.Z < 0.1)
                {
                    return (start, double.PositiveInfinity);
                }

                var (u, v) = camera.Distort(c.X / c.Z, c.Y / c.Z);
                sum += ((u - clicks[i].U) * (u - clicks[i].U)) + ((v - clicks[i].V) * (v - clicks[i].V));
            }

            return (
                camera,
                camera.Focal > 0.2 * camera.Width && camera.Focal < 20 * camera.Width ? Math.Sqrt(sum / n) : double.PositiveInfinity
            );
        }
        catch (MathNet.Numerics.NonConvergenceException)
        {
            return (start, double.PositiveInfinity);
        }
    }

    /// <summary>Turn vector (radians), shift in camera axes (units of two metres) and the logarithm of the focal length, from a start.</summary>
    private static CameraModel Apply(CameraModel start, Vector<double> p)
    {
        var turn = Matrix3d.FromRotationVector(new Vector3d(p[0], p[1], p[2]));
        return start with
        {
            Rotation = turn * start.Rotation,
            Translation = (turn * start.Translation) + new Vector3d(2 * p[3], 2 * p[4], 2 * p[5]),
            Focal = start.Focal * Math.Exp(Math.Clamp(p[6], -3, 3)),
        };
    }
}
