using Eidolon.Core.Geometry;
using Eidolon.Core.Optical;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Video;

/// <summary>
/// First poses from one film: at moments a little apart many guesses are tried, the row of them that fits best and moves least is taken (dynamic
/// programming), and the frames between are followed from both sides.
/// </summary>
internal static class FilmStart
{
    /// <summary>Guesses are made so far apart, seconds.</summary>
    private const double Apart = 0.4;

    /// <summary>Headings that are tried.</summary>
    private const int Headings = 6;

    /// <summary>Points move about so far between two guesses, metres; what that counts.</summary>
    private const double UsualMove = 0.3,
        MoveCost = 12;

    /// <summary>A frame is near the one before, radians and metres.</summary>
    private const double Near = 0.15;

    public static ModelPose[] Find(FilmBody body, FilmClock clock, CancellationToken cancel)
    {
        var step = Math.Max(1, (int)Math.Round(Apart * clock.Rate));
        var frames = Enumerable.Range(0, ((clock.FrameCount - 1) / step) + 1).Select(i => i * step).ToArray();
        var guesses = new List<Guess>[frames.Length];
        Parallel.For(
            0,
            frames.Length,
            new ParallelOptions { CancellationToken = cancel },
            () => new FilmFrame(body),
            (i, _, solver) =>
            {
                guesses[i] = Guesses(body, clock, frames[i], solver);
                return solver;
            },
            _ => { }
        );
        var keys = Best(guesses);
        return Follow(body, clock, frames, keys);
    }

    private static List<Guess> Guesses(FilmBody body, FilmClock clock, int frame, FilmFrame solver)
    {
        var sights = clock.At(frame);
        var found = new List<Guess>();
        if (Pelvis(body, clock.Cameras[0], sights) is not { } pelvis)
        {
            return found;
        }

        for (var h = 0; h < Headings; h++)
        {
            foreach (var sits in new[] { false, true })
            {
                var pose = body.AtEase(pelvis, h * 2 * Math.PI / Headings, sits);
                var cost = solver.Solve(pose, sights, steps: 30);
                if (found.All(g => Apartness(g.Points, solver.Markers) > 0.03))
                {
                    found.Add(new Guess(pose, cost, solver.Markers[..body.Points.Count].ToArray()));
                }
            }
        }

        return [.. found.OrderBy(g => g.Cost).Take(8)];
    }

    /// <summary>Where the pelvis is: as deep in the picture as the foot that is lowest in it, which is taken to be near the floor.</summary>
    private static Vector3d? Pelvis(FilmBody body, CameraModel camera, List<FilmSight> sights)
    {
        Vector3d Ray(double u, double v)
        {
            var (x, y) = camera.Undistort(u, v);
            return camera.Rotation.Transposed * new Vector3d(x, y, 1);
        }

        bool Is(FilmSight s, params string[] names) => names.Contains(body.Points[s.Point].Name);
        var hips = sights.Where(s => Is(s, "HipL", "HipR", "Pelvis")).ToArray();
        if (hips.Length == 0)
        {
            return null;
        }

        var middle = Ray(hips.Average(s => s.U), hips.Average(s => s.V));
        var feet = sights.Where(s => Is(s, "AnkleL", "AnkleR", "HeelL", "HeelR", "ToeL", "ToeR")).ToArray();
        var depth = 4.0;
        if (feet.Length > 0)
        {
            const double above = 0.04;
            var low = feet.MaxBy(s => s.V);
            var ray = Ray(low.U, low.V);
            var t = (above - camera.Position.Y) / ray.Y;
            depth = t is > 0.5 and < 25 ? t : depth;
        }

        return camera.Position + (middle * depth);
    }

    /// <summary>The row of guesses with the least cost and way; a moment without guesses is skipped.</summary>
    private static ModelPose?[] Best(List<Guess>[] guesses)
    {
        var keys = new ModelPose?[guesses.Length];
        var back = new int[guesses.Length][];
        var (costs, last) = (Array.Empty<double>(), -1);
        var before = new int[guesses.Length];
        for (var i = 0; i < guesses.Length; i++)
        {
            if (guesses[i].Count == 0)
            {
                continue;
            }

            var next = new double[guesses[i].Count];
            back[i] = new int[guesses[i].Count];
            before[i] = last;
            for (var g = 0; g < next.Length; g++)
            {
                var best = last < 0 ? 0 : double.PositiveInfinity;
                for (var p = 0; p < costs.Length; p++)
                {
                    var away = Apartness(guesses[last][p].Points, guesses[i][g].Points) / (UsualMove * Math.Sqrt(i - last));
                    var cost = costs[p] + (MoveCost * Math.Min(9, away * away));
                    (best, back[i][g]) = cost < best ? (cost, p) : (best, back[i][g]);
                }

                next[g] = best + guesses[i][g].Cost;
            }

            (costs, last) = (next, i);
        }

        for (var (i, g) = (last, last < 0 ? 0 : Array.IndexOf(costs, costs.Min())); i >= 0; (g, i) = (back[i][g], before[i]))
        {
            keys[i] = guesses[i][g].Pose;
        }

        return keys;
    }

    private static ModelPose[] Follow(FilmBody body, FilmClock clock, int[] frames, ModelPose?[] keys)
    {
        var known = Enumerable.Range(0, keys.Length).Where(i => keys[i] is not null).ToArray();
        if (known.Length == 0)
        {
            throw new RefusedException("no frame of the film shows hips and feet");
        }

        var solver = new FilmFrame(body);
        var poses = new ModelPose[clock.FrameCount];
        for (var k = 0; k < known.Length; k++)
        {
            var at = frames[known[k]];
            var from = k == 0 ? 0 : (frames[known[k - 1]] + at + 1) / 2;
            var to = k + 1 == known.Length ? poses.Length : (at + frames[known[k + 1]] + 1) / 2;
            poses[at] = keys[known[k]]!;
            for (var f = at + 1; f < to; f++)
            {
                poses[f] = Next(poses[f - 1], f);
            }

            for (var f = at - 1; f >= from; f--)
            {
                poses[f] = Next(poses[f + 1], f);
            }
        }

        return poses;

        ModelPose Next(ModelPose last, int frame)
        {
            var pose = new ModelPose(body.Model);
            pose.CopyFrom(last);
            solver.Solve(pose, clock.At(frame), last, Near, steps: 6);
            return pose;
        }
    }

    /// <summary>RMS distance of two sets of points, metres.</summary>
    private static double Apartness(ReadOnlySpan<Vector3d> a, ReadOnlySpan<Vector3d> b)
    {
        double sum = 0;
        var n = Math.Min(a.Length, b.Length);
        for (var i = 0; i < n; i++)
        {
            var d = a[i] - b[i];
            sum += Vector3d.Dot(d, d);
        }

        return Math.Sqrt(sum / Math.Max(1, n));
    }

    private sealed record Guess(ModelPose Pose, double Cost, Vector3d[] Points);
}
