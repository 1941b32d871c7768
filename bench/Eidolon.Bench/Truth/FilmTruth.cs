using System.Diagnostics;
using System.Numerics;
using Eidolon.Core.Optical;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Video;
using Eidolon.Devices;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.StandIns.Video;

namespace Eidolon.Bench.Truth;

/// <summary>How well witness films become a motion: joints, feet, jitter, starts, speed; one camera and three.</summary>
internal static class FilmTruth
{
    internal const double Fine = 120;

    private static readonly string[] Scenes =
    [
        "cam-mend-net",
        "lamp-walk",
        "haul-rope",
        "gangplank-hop",
        "crate-carry",
        "suit-patrol",
        "rom",
    ];

    public static void Run()
    {
        Console.WriteLine(
            "films: joints off in mm, pelvis on pelvis (mean, worst joint) and where they are; planted feet: slide, float; jitter against the truth's; starts off in frames; × real time"
        );
        foreach (var scene in Scenes)
        {
            foreach (var person in Strangers.Some(3, 41).Skip(1).Prepend(HarbourCast.Ines))
            {
                foreach (var cameras in new[] { 1, 3 })
                {
                    Try(scene, person, cameras);
                }
            }
        }
    }

    private static void Try(string scene, Person person, int count)
    {
        var rates = new double[] { 30, 30, 24 };
        var starts = new[] { 0, 26, -31 };
        var performance = SceneCatalog.Perform(scene, person, 1, Fine);
        var truth = performance.Actors[0].Motion;
        var films = Enumerable.Range(0, count).Select(k => Film(performance, k, starts[k], rates[k])).ToArray();
        var clock = Stopwatch.StartNew();
        var (motion, report) = FilmSolver.Solve(films, [.. WitnessSimulator.Cameras.Take(count)], person.Skeleton);
        var fast = motion.DurationSeconds / clock.Elapsed.TotalSeconds;
        var step = (int)(Fine / rates[0]);
        var (a, b) = (ForwardKinematics.WorldPositions(truth), ForwardKinematics.WorldPositions(motion));
        var n = truth.Skeleton.Count;
        var (aligned, absolute) = (new double[n], 0.0);
        // Who has left the picture of every camera is not to be found; frames with fewer than half the body's points are left out.
        var frames = Enumerable
            .Range(0, motion.FrameCount)
            .Where(f => films.Max(x => Seen(x, f / rates[0])) >= WitnessPoints.BodyCount / 2)
            .ToArray();
        foreach (var f in frames)
        {
            for (var j = 0; j < n; j++)
            {
                Vector3 p = a[(f * step * n) + j],
                    q = b[(f * n) + j];
                aligned[j] += Vector3.Distance(p - a[f * step * n], q - b[f * n]) * 1000 / frames.Length;
                absolute += Vector3.Distance(p, q) * 1000 / frames.Length / n;
            }
        }

        var slow = MotionEdits.Range(truth, 0, truth.FrameCount, step);
        var (slide, high) = Feet(performance, motion, b, step, frames);
        var worst = Array.IndexOf(aligned, aligned.Max());
        var off = report.OffsetsSeconds.Select((o, k) => Math.Abs(o - (starts[k] / Fine)) * rates[k]).Max();
        Console.WriteLine(
            $"{scene, -14} {person.Stature:0.00} m {count} cameras {frames.Length * 100 / motion.FrameCount, 3} % {aligned.Skip(1).Average(), 5:0.0} worst {aligned[worst], 5:0.0} {truth.Skeleton[worst].Name, -9} there {absolute, 6:0.0}  slide {slide:0.0} float {high:0.0}  jitter {Jitter(motion) / Jitter(slow):0.0}×  starts {off:0.00}  px {string.Join("/", report.ReprojectionPixels.Select(p => $"{p:0.0}"))}  legs {report.ExchangedLegs.Count}  ×{fast:0.0}"
        );
    }

    private static int Seen(FilmTake film, double seconds)
    {
        var f = (int)(seconds * film.FrameRate);
        return f >= film.FrameCount ? 0 : Enumerable.Range(0, WitnessPoints.BodyCount).Count(p => film.At(f, p).Confidence > 0.2f);
    }

    /// <summary>What one camera's tracker says of a performance rendered at <see cref="Fine"/>.</summary>
    /// <param name="start">Its first frame, in fine frames.</param>
    internal static FilmTake Film(Performance performance, int camera, int start, double rate)
    {
        var fine = WitnessSimulator.See(performance, camera, 17 + camera);
        var rows = new List<float>();
        var values = WitnessPoints.Values;
        for (var i = 0; ; i++)
        {
            var f = start + (int)Math.Round(i * Fine / rate);
            if (f >= performance.FrameCount)
            {
                break;
            }

            // Before the performance there is nothing to see.
            rows.AddRange(f < 0 ? new float[values] : fine.AsSpan(f * values, values));
        }

        var seen = TrackerFaults.Add([.. rows], rate, 0.05f, 4, camera + 3);
        var points = new float[seen.Length / values * WitnessPoints.Count * 3];
        for (var f = 0; f < seen.Length / values; f++)
        {
            seen.AsSpan(f * values, WitnessPoints.Count * 3).CopyTo(points.AsSpan(f * WitnessPoints.Count * 3));
        }

        return new FilmTake(rate, WitnessPoints.Names, points);
    }

    /// <summary>Over the true plants: how far an ankle moves along the floor while it stands, the worst, and how high its mean stands over the truth's.</summary>
    private static (double Slide, double Float) Feet(Performance performance, Motion motion, Vector3[] world, int step, int[] frames)
    {
        var contacts = Core.Cleaning.BodyContacts.Find(motion).Joints;
        double slide = 0,
            high = 0;
        var s = motion.Skeleton;
        foreach (var c in contacts)
        {
            slide = Math.Max(slide, FootSlideMeasure.Reach(world, s.Count, s.IndexOf(c.Role), c.Start, c.End) * 1000);
        }

        var truth = ForwardKinematics.WorldPositions(performance.Actors[0].Motion);
        var offs = new List<double>();
        foreach (
            var p in performance.Actors[0].Plants.Where(p => p.End - p.Start > 4 * step && frames.Contains((p.Start + p.End) / 2 / step))
        )
        {
            var f = (p.Start + p.End) / 2 / step;
            var j = s.IndexOf(p.Foot);
            offs.Add(Math.Abs(world[(f * s.Count) + j].Y - truth[(f * step * s.Count) + j].Y) * 1000);
        }

        high = offs.Count == 0 ? 0 : offs.Max();
        return (slide, high);
    }

    private static double Jitter(Motion m)
    {
        // Above 15 Hz nothing is left at 30 frames a second: the RMS of third differences instead.
        var world = ForwardKinematics.WorldPositions(m);
        var n = m.Skeleton.Count;
        double sum = 0;
        for (var k = 3 * n; k < world.Length; k++)
        {
            sum += (world[k] - (3 * world[k - n]) + (3 * world[k - (2 * n)]) - world[k - (3 * n)]).LengthSquared();
        }

        return Math.Sqrt(sum / world.Length);
    }
}
