using System.Diagnostics;
using Eidolon.Core.Faces;
using Eidolon.Core.Geometry;
using Eidolon.Core.Hands;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.Core.Video;
using Eidolon.StandIns.Devices;
using Eidolon.StandIns.Inertial;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.StandIns.Video;

namespace Eidolon.Bench.Truth;

/// <summary>How well fingers and faces ride along: joint turns, bends backwards, the face's beginning, speed with hands.</summary>
internal static class HandTruth
{
    public static void Run()
    {
        Console.WriteLine(
            "hands: degrees RMS a finger joint and of the worst finger, from nail markers and from gloves; bends below zero; the face's beginning, ms off (half a frame is 8.3); body and hands × real time"
        );
        foreach (var person in Strangers.Some(4, 17).Append(HarbourCast.Ines).Append(HarbourCast.Tobi))
        {
            Films(person);
        }

        foreach (var rate in TruthRun.Rates(60, 120))
        {
            foreach (var person in Strangers.Some(4, 17).Append(HarbourCast.Ines).Append(HarbourCast.Tobi))
            {
                Try(person, rate);
            }
        }
    }

    private static void Try(Person person, double rate)
    {
        var set = HarbourMarkers.Set(hands: true);
        var scene = SceneCatalog.Perform("signal-wave", person, 2, rate);
        var truth = scene.Actors[0].Motion;
        var seen = MarkerSimulator.Labelled(scene, new MarkerSimulator.Settings(MinimumCameras: 3, Skin: Skin.Soft));
        var rom = MarkerSimulator.Labelled(SceneCatalog.Perform("rom", person, 1, rate), new MarkerSimulator.Settings(Skin: Skin.Soft));
        var performer = PerformerCalibration.Calibrate(person.Name, rom, set).Performer;
        var clock = Stopwatch.StartNew();
        var body = TakeSolver.Solve(performer, seen).Motion;
        var (hands, poses, report) = HandMarkers.Solve(performer, body, seen, set);
        var seconds = clock.Elapsed.TotalSeconds;
        var gloves = GloveSolver.Solve(body, performer.Stature, GloveSimulator.Measure(truth, person.Seed));
        var back = poses.Poses.Concat(gloves.Poses.Poses).Count(p => p.First < 0 || p.Second < 0 || p.Third < 0);
        var late = 0.05 + (0.01 * (person.Seed % 30));
        var face = FaceSimulator.See(scene.Face!, scene.Seconds, late, person.Seed);
        var lag = FaceLag.Find(body, face)?.Seconds;
        var (a, b) = (Degrees(truth, hands), Degrees(truth, gloves.Motion));
        Console.WriteLine(
            $"{rate, 4:0} Hz {person.Stature:0.00} m   markers {a.All:0.0} {a.Worst:0.0}   gloves {b.All:0.0} {b.Worst:0.0}   backwards {back}   off {report.Off.Count}   face {(lag - late) * 1000:0.0}   {scene.Seconds / seconds:0} ×"
        );
    }

    /// <summary>Fingers from the hand points of one camera and of three.</summary>
    private static void Films(Person person)
    {
        const double rate = 30;
        var scene = SceneCatalog.Perform("signal-wave", person, 2, FilmTruth.Fine);
        var truth = MotionEdits.Range(scene.Actors[0].Motion, 0, scene.FrameCount, (int)(FilmTruth.Fine / rate));
        foreach (var count in new[] { 1, 3 })
        {
            var films = Enumerable.Range(0, count).Select(k => FilmTruth.Film(scene, k, k * 13, rate)).ToArray();
            var clock = Stopwatch.StartNew();
            var (body, report) = FilmSolver.Solve(films, [.. WitnessSimulator.Cameras.Take(count)], person.Skeleton);
            var (hands, poses, said) = FilmHands.Solve(body, person.Stature, films, report.Cameras, report.OffsetsSeconds);
            var seconds = clock.Elapsed.TotalSeconds;
            var back = poses.Poses.Count(p => p.First < 0 || p.Second < 0 || p.Third < 0);
            var a = Degrees(truth, hands);
            Console.WriteLine(
                $"{rate, 4:0} Hz {person.Stature:0.00} m   {count} cameras {a.All:0.0} {a.Worst:0.0}   seen {said.Fingers.Average(f => f.Seen) * 100:0} %   backwards {back}   body {BodyMillimetres(truth, body):0} mm   {scene.Seconds / seconds:0} ×"
            );
        }
    }

    private static double BodyMillimetres(Motion truth, Motion found)
    {
        var (a, b) = (ForwardKinematics.WorldPositions(truth), ForwardKinematics.WorldPositions(found));
        int[] hands = [truth.Skeleton.IndexOf(BodyRole.HandL), truth.Skeleton.IndexOf(BodyRole.HandR)];
        return Enumerable
            .Range(0, Math.Min(truth.FrameCount, found.FrameCount))
            .Average(f => hands.Average(j => (a[(f * truth.Skeleton.Count) + j] - b[(f * found.Skeleton.Count) + j]).Length()) * 1000);
    }

    private static (double All, double Worst) Degrees(Motion truth, Motion found)
    {
        var sums = new double[HandPoses.Fingers];
        for (var i = 0; i < sums.Length; i++)
        {
            for (var k = 1; k <= 3; k++)
            {
                var role = HandShape.Joint("LR"[i / 5], i % 5, k);
                int a = truth.Skeleton.IndexOf(role),
                    b = found.Skeleton.IndexOf(role);
                for (var f = 0; f < Math.Min(truth.FrameCount, found.FrameCount); f++)
                {
                    var angle = Rotations.Angle(truth.RotationsAt(f)[a], found.RotationsAt(f)[b]);
                    sums[i] += angle * angle / (3.0 * truth.FrameCount);
                }
            }
        }

        double Of(double sum) => Math.Sqrt(sum) * 180 / Math.PI;
        return (Of(sums.Average()), Of(sums.Max()));
    }
}
