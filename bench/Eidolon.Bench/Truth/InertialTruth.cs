using System.Diagnostics;
using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Inertial;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Inertial;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Bench.Truth;

/// <summary>How well a suit's recording becomes a motion: bones, drift, travel, height, feet, speed.</summary>
internal static class InertialTruth
{
    /// <summary>Steel beside the way: 2 to 10 µT in passing.</summary>
    private static readonly RoomField Quay = new(
        (new Vector3(3.1f, 0.4f, -0.4f), 6),
        (new Vector3(-3.2f, 1.1f, 0.3f), 5),
        (new Vector3(0.4f, 0.2f, 3.0f), 4),
        (new Vector3(0.2f, 1.6f, -3.1f), 5)
    );

    public static void Run()
    {
        Console.WriteLine(
            "inertial: five minutes; degrees RMS (a bone, the worst bone, first and last minute), travel, height, slide of feet held, × real time"
        );
        foreach (var rate in TruthRun.Rates(60, 100, 240))
        {
            foreach (var person in Strangers.Some(3, 21).Prepend(HarbourCast.Ines))
            {
                foreach (var steps in new[] { false, true })
                {
                    var performance = SceneCatalog.Patrol(person, 5, 16, steps, rate);
                    var field = new RoomField(Quay.Steel) { Load = (150, 180, new Vector3(9, -4, 11)) };
                    Try(
                        $"{rate, 4:0} Hz {person.Stature:0.00} m {(steps ? "steps" : "level")}",
                        performance.Actors[0].Motion,
                        field,
                        person.Skeleton,
                        person.Seed
                    );
                }
            }
        }
    }

    /// <summary>The lent motion in the suit: it knows nothing of how our stand-ins move. Its rest pose stands for the T-pose.</summary>
    public static void Recording()
    {
        if (Lent.Folder() is not { } folder)
        {
            Console.WriteLine("inertial-recording: there is no recording beside the project");
            return;
        }

        var motion = Lent.Motion(folder);
        var ahead = Vector3.Transform(Vector3.UnitZ, motion.Rotations[0]);
        motion = MotionEdits.Turn(motion, Quaternion.Inverse(Rotations.Heading(ahead)));
        // The root's rest place is on the floor.
        var body = Grounding.OnFloor(motion.Skeleton);
        motion = Steady(motion.On(body));
        foreach (var sloppy in new[] { 0f, 1.5f })
        {
            foreach (var seed in new[] { 3, 4 })
            {
                var truth = CalibratingPoses.Before(motion, seed, sloppy);
                Try($"{truth.FrameRate, 4:0} Hz recording, T-pose off by {sloppy:0.0}°", truth, new RoomField(Quay.Steel), body, seed);
            }
        }
    }

    /// <summary>The recording's own tremble, some millimetres from frame to frame, is its measuring: no body accelerates so. Taken out above about 6 Hz.</summary>
    private static Motion Steady(Motion motion)
    {
        var (result, n) = (motion.Copy(), motion.Skeleton.Count);
        var sigma = 0.028 * motion.FrameRate;
        var reach = (int)(3 * sigma);
        for (var f = 0; f < motion.FrameCount; f++)
        {
            for (var j = 0; j < n; j++)
            {
                var (turn, place, total) = (Vector4.Zero, Vector3.Zero, 0f);
                var first = motion.Rotations[(f * n) + j];
                for (var k = -reach; k <= reach; k++)
                {
                    var at = (Math.Clamp(f + k, 0, motion.FrameCount - 1) * n) + j;
                    var w = (float)Math.Exp(-k * k / (2 * sigma * sigma));
                    var q = motion.Rotations[at];
                    turn += w * (Quaternion.Dot(q, first) < 0 ? -1 : 1) * new Vector4(q.X, q.Y, q.Z, q.W);
                    place += w * motion.Translations[at];
                    total += w;
                }

                result.Rotations[(f * n) + j] = Quaternion.Normalize(new Quaternion(turn.X, turn.Y, turn.Z, turn.W));
                result.Translations[(f * n) + j] = place / total;
            }
        }

        return result;
    }

    private static void Try(string name, Motion truth, RoomField field, Skeleton body, int seed)
    {
        var take = new SuitTake(truth.FrameRate, SuitSimulator.Measure(truth, field, seed));
        var clock = Stopwatch.StartNew();
        var (motion, report) = SuitSolver.Solve(take, body);
        var fast = truth.DurationSeconds / clock.Elapsed.TotalSeconds;
        var (bones, worst, who, first, last, own) = Turns(truth, motion);
        var way = 0.0;
        for (var f = 1; f < truth.FrameCount; f++)
        {
            way += Flat(Root(truth, f) - Root(truth, f - 1));
        }

        var end = Flat(Root(motion, motion.FrameCount - 1) - (Root(truth, truth.FrameCount - 1) - Root(truth, 0)));
        var walked = 0.0;
        for (var f = 1; f < truth.FrameCount; f++)
        {
            walked += Flat(Root(motion, f) - Root(motion, f - 1));
        }

        var high = Enumerable.Range(0, truth.FrameCount).Max(f => Math.Abs(Root(motion, f).Y - Root(truth, f).Y)) * 1000;
        var world = ForwardKinematics.WorldPositions(motion);
        var slides = report
            .Contacts.Select(c =>
                FootSlideMeasure.Reach(world, motion.Skeleton.Count, motion.Skeleton.IndexOf(c.Role), c.Start, c.End) * 1000
            )
            .DefaultIfEmpty()
            .ToArray();
        Console.WriteLine(
            $"{name}  {bones:0.00}° ({own:0.00}° but for how the T-pose stood) worst {worst:0.00}° {who, -10} minutes {first:0.00}→{last:0.00}°  way {way:0} m {(walked - way) / way:+0.0%;-0.0%} end off {end:0.00} m ({end / way:0.0%})  height {high:0} mm  slide {slides.Max():0.0} mm  disturbed {report.Disturbed.Count}  ×{fast:0}"
        );
    }

    private static double Flat(Vector3 v) => Math.Sqrt((v.X * v.X) + (v.Z * v.Z));

    private static Vector3 Root(Motion m, int f) => m.Translations[f * m.Skeleton.Count];

    private static (double Mean, double Worst, BodyRole Who, double First, double Last, double Own) Turns(Motion truth, Motion motion)
    {
        var (a, b) = (new Quaternion[truth.Rotations.Length], new Quaternion[motion.Rotations.Length]);
        ForwardKinematics.WorldPositions(truth, a);
        ForwardKinematics.WorldPositions(motion, b);
        var (n, minute) = (truth.FrameCount, (int)(60 * truth.FrameRate));
        double[] Off(BodyRole role, bool constantLeft)
        {
            int i = truth.Skeleton.IndexOf(role),
                j = motion.Skeleton.IndexOf(role);
            var off = new Quaternion[n];
            var sum = default(Vector4);
            for (var f = 0; f < n; f++)
            {
                var q = Quaternion.Conjugate(a[(f * truth.Skeleton.Count) + i]) * b[(f * motion.Skeleton.Count) + j];
                off[f] = q.W < 0 ? -q : q;
                sum += new Vector4(off[f].X, off[f].Y, off[f].Z, off[f].W);
            }

            // The constant part is how the wearer stood in the T-pose; what is left is the computation's.
            var mean = Quaternion.Normalize(new Quaternion(sum.X, sum.Y, sum.Z, sum.W));
            return Array.ConvertAll(off, q => Rotations.Angle(constantLeft ? Quaternion.Identity : mean, q) * 180 / Math.PI);
        }

        static double Rms(IEnumerable<double> values) => Math.Sqrt(values.Average(v => v * v));
        var each = SuitBones.All.Select(r => (Role: r, Off: Off(r, true))).ToArray();
        var worst = each.MaxBy(x => Rms(x.Off));
        return (
            Rms(each.Select(x => Rms(x.Off))),
            Rms(worst.Off),
            worst.Role,
            Rms(each.Select(x => Rms(x.Off.Take(minute)))),
            Rms(each.Select(x => Rms(x.Off.TakeLast(minute)))),
            Rms(SuitBones.All.Select(r => Rms(Off(r, false))))
        );
    }
}
