using System.Diagnostics;
using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Solving;

/// <summary>Solves a labelled take to the performer's skeleton, frame after frame with warm start.</summary>
public static class TakeSolver
{
    /// <summary>Markers this far from where the body carries them mean that it is lost, RMS, metres.</summary>
    private const double Lost = 0.06;

    /// <summary>Solves every frame of a performer's markers.</summary>
    public static (Motion Motion, SolveReport Report) Solve(
        Performer performer,
        MarkerTake take,
        CancellationToken cancel = default,
        IProgress<double>? progress = null
    )
    {
        var model = BodyModel.Create(performer);
        var index = performer.Markers.Select(m => take.IndexOf(m.Name)).ToArray();
        if (index.Count(i => i >= 0) < 6)
        {
            throw new RefusedException($"only {index.Count(i => i >= 0)} of {performer.Name}'s {index.Length} markers are in the take");
        }

        var motion = new Motion(performer.Skeleton, take.FrameRate, take.FrameCount) { FirstFrame = take.FirstFrame };
        var residuals = new float[take.FrameCount * index.Length];
        Array.Fill(residuals, float.NaN);
        var solver = new FrameSolver(model);
        var targets = new Vector3d[index.Length];
        var warnings = new List<string>();
        var clock = Stopwatch.StartNew();
        var first = FirstUsable(take, index);
        var pose = StartPose(performer, model, take, index, first);
        var previous = new ModelPose(model);
        var blind = 0;
        for (var f = 0; f < take.FrameCount; f++)
        {
            if ((f & 63) == 0)
            {
                cancel.ThrowIfCancellationRequested();
                progress?.Report(f / (double)take.FrameCount);
            }

            if (Fill(targets, take, index, f) < 3)
            {
                blind++;
                BodyModel.WriteFrame(model, pose, motion, f);
                continue;
            }

            previous.CopyFrom(pose);
            solver.Solve(pose, targets, f <= first ? null : previous);
            if (Rms(solver, targets) > Lost)
            {
                Recover(performer, model, solver, take, index, targets, pose, f);
            }

            BodyModel.WriteFrame(model, pose, motion, f);
            for (var i = 0; i < index.Length; i++)
            {
                var e = solver.Markers[i] - targets[i];
                residuals[(f * index.Length) + i] = double.IsNaN(targets[i].X) ? float.NaN : (float)(Math.Sqrt(Vector3d.Dot(e, e)) * 1000);
            }
        }

        if (blind > 0)
        {
            warnings.Add($"{blind} frames show fewer than three markers of {performer.Name}; the pose is held there and cannot be trusted");
        }

        KeepHemisphere(motion);
        progress?.Report(1);
        return (
            motion,
            Report(performer, residuals, take.FrameCount / Math.Max(1e-6, clock.Elapsed.TotalSeconds), warnings, take.FrameCount)
        );
    }

    /// <summary>Every <paramref name="step"/>th pose of a labelled take; for finding the same performer in other takes.</summary>
    public static List<ModelPose> Poses(Performer performer, MarkerTake take, int step, CancellationToken cancel = default) =>
        [.. Follow(performer, take, step, cancel).Select(p => p.Pose)];

    /// <summary>Follows the performer from the first frame that shows enough of them; every so many frames, the frame and the pose.</summary>
    internal static IEnumerable<(int Frame, ModelPose Pose)> Follow(
        Performer performer,
        MarkerTake take,
        int step,
        CancellationToken cancel = default
    )
    {
        var model = BodyModel.Create(performer);
        var index = performer.Markers.Select(m => take.IndexOf(m.Name)).ToArray();
        var solver = new FrameSolver(model);
        var targets = new Vector3d[index.Length];
        var first = FirstUsable(take, index);
        var pose = StartPose(performer, model, take, index, first);
        for (var f = first; f < take.FrameCount; f++)
        {
            cancel.ThrowIfCancellationRequested();
            if (Fill(targets, take, index, f) >= 6)
            {
                solver.Solve(pose, targets);
                if (Rms(solver, targets) > Lost)
                {
                    Recover(performer, model, solver, take, index, targets, pose, f);
                }
            }

            if ((f - first) % step == 0)
            {
                var kept = new ModelPose(model);
                kept.CopyFrom(pose);
                yield return (f, kept);
            }
        }
    }

    private static int FirstUsable(MarkerTake take, int[] index)
    {
        for (var f = 0; f < take.FrameCount; f++)
        {
            if (index.Count(i => i >= 0 && MarkerTake.Seen(take[f, i])) >= Math.Min(12, index.Length * 0.6))
            {
                return f;
            }
        }

        return 0;
    }

    private static int Fill(Vector3d[] targets, MarkerTake take, int[] index, int frame)
    {
        var seen = 0;
        for (var i = 0; i < index.Length; i++)
        {
            targets[i] = index[i] < 0 ? (Vector3d)MarkerTake.Hidden : take[frame, index[i]];
            seen += double.IsNaN(targets[i].X) ? 0 : 1;
        }

        return seen;
    }

    /// <summary>The pose of the first usable frame, from several starts: headings all round and two ways to hold the arms; the best fit wins.</summary>
    private static ModelPose StartPose(Performer performer, ArticulatedModel model, MarkerTake take, int[] index, int frame)
    {
        var targets = new Vector3d[index.Length];
        Fill(targets, take, index, frame);
        return BestStart(performer, model, targets);
    }

    internal static ModelPose BestStart(Performer performer, ArticulatedModel model, Vector3d[] targets)
    {
        var solver = new FrameSolver(
            model,
            new SolveOptions
            {
                RobustScale = 0.25,
                MaximumSteps = 60,
                FrameSpread = double.PositiveInfinity,
            }
        );
        Vector3 centre = default;
        var n = 0;
        for (var i = 0; i < targets.Length; i++)
        {
            if (!double.IsNaN(targets[i].X))
            {
                centre += targets[i].ToSingle();
                n++;
            }
        }

        centre /= Math.Max(1, n);
        ModelPose? best = null;
        var bestCost = double.PositiveInfinity;
        var shoulder = performer.Skeleton.IndexOf(BodyRole.UpperArmL);
        var other = performer.Skeleton.IndexOf(BodyRole.UpperArmR);
        for (var k = 0; k < 12; k++)
        {
            var pose = BodyModel.RestPose(model, centre, Rotations.AboutAxis(1, (k % 6) * Math.PI / 3));
            if (k >= 6 && shoulder >= 0 && other >= 0)
            {
                pose.Turns[shoulder] = Rotations.AboutAxis(2, -1.2);
                pose.Turns[other] = Rotations.AboutAxis(2, 1.2);
            }

            var cost = solver.Solve(pose, targets);
            // Places beyond all measure have no cost that compares: then the first start is as good as any.
            if (best is null || cost < bestCost)
            {
                (best, bestCost) = (pose, cost);
            }
        }

        return best!;
    }

    /// <summary>Track lost: start anew and keep whichever fits better.</summary>
    private static void Recover(
        Performer performer,
        ArticulatedModel model,
        FrameSolver solver,
        MarkerTake take,
        int[] index,
        Vector3d[] targets,
        ModelPose pose,
        int frame
    )
    {
        var kept = new ModelPose(model);
        kept.CopyFrom(pose);
        var keptRms = Rms(solver, targets);
        // Only now and then: a take with swapped labels must not restart on every frame.
        if (frame % 8 == 0)
        {
            pose.CopyFrom(BestStart(performer, model, targets));
        }

        solver.Solve(pose, targets);
        if (Rms(solver, targets) >= keptRms * 0.8)
        {
            pose.CopyFrom(kept);
            solver.Solve(pose, targets);
        }
    }

    /// <summary>Of the distances between markers and their targets at the pose solved last, metres; hidden ones do not count.</summary>
    internal static double Rms(FrameSolver solver, Vector3d[] targets)
    {
        double sum = 0;
        var n = 0;
        for (var i = 0; i < targets.Length; i++)
        {
            if (!double.IsNaN(targets[i].X))
            {
                var e = solver.Markers[i] - targets[i];
                sum += Vector3d.Dot(e, e);
                n++;
            }
        }

        return Math.Sqrt(sum / Math.Max(1, n));
    }

    /// <summary>Neighbouring frames use the same sign of each quaternion, so that any interpolation takes the short way.</summary>
    internal static void KeepHemisphere(Motion motion)
    {
        var n = motion.Skeleton.Count;
        for (var k = n; k < motion.Rotations.Length; k++)
        {
            if (Quaternion.Dot(motion.Rotations[k - n], motion.Rotations[k]) < 0)
            {
                motion.Rotations[k] = -motion.Rotations[k];
            }
        }
    }

    /// <summary>Sums residuals up: [frame × markers + marker], millimetres, NaN where a marker is not seen.</summary>
    internal static SolveReport Report(Performer performer, float[] residuals, double rate, List<string> warnings, int frames)
    {
        var n = performer.Markers.Count;
        var seen = residuals.Where(r => !float.IsNaN(r)).ToArray();
        Array.Sort(seen);
        var perFrame = new float[frames];
        for (var f = 0; f < frames; f++)
        {
            var row = residuals.AsSpan(f * n, n).ToArray().Where(r => !float.IsNaN(r)).ToArray();
            perFrame[f] = row.Length == 0 ? float.NaN : MathF.Sqrt(row.Sum(r => r * r) / row.Length);
        }

        var means = performer
            .Markers.Select(
                (m, i) =>
                    (
                        m.Name,
                        Mean: Enumerable
                            .Range(0, frames)
                            .Select(f => residuals[(f * n) + i])
                            .Where(r => !float.IsNaN(r))
                            .DefaultIfEmpty(float.NaN)
                            .Average()
                    )
            )
            .ToDictionary(m => m.Name, m => (double)m.Mean, StringComparer.Ordinal);
        return new SolveReport(
            seen.Length == 0 ? 0 : seen.Average(),
            seen.Length == 0 ? 0 : seen[(int)(seen.Length * 0.95)],
            seen.Length == 0 ? 0 : seen[^1],
            means,
            perFrame,
            residuals,
            rate,
            warnings
        );
    }
}
