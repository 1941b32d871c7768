using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Solving;

/// <summary>Solves a take in which markers slipped: from the frame it slipped at each hangs on its bone where it went.</summary>
public static class SlipFollower
{
    /// <summary>A marker that slipped pulls its bone along a little, so its way is measured short at first; by then it is measured anew.</summary>
    private const int Rounds = 2;

    /// <summary>Solves a take and follows the slips that were found in it.</summary>
    /// <param name="take">The performer's own markers, without what stands before their names.</param>
    /// <param name="slips">As <see cref="SlipFinder.Find"/> gave them.</param>
    /// <returns>The motion, and the slips with the way they went in truth.</returns>
    public static (Motion Motion, SolveReport Report, IReadOnlyList<Slip> Slips) Solve(
        Performer performer,
        MarkerTake take,
        IReadOnlyList<Slip> slips,
        CancellationToken cancel = default,
        IProgress<double>? progress = null
    )
    {
        var (motion, report) = Once(performer, take, slips, cancel);
        for (var round = 1; round < Rounds; round++)
        {
            progress?.Report(round / (double)Rounds);
            var offsets = new BoneOffsets(performer, motion, take);
            slips = [.. slips.Select(s => s with { By = Way(offsets, s) ?? s.By })];
            (motion, report) = Once(performer, take, slips, cancel);
        }

        progress?.Report(1);
        return (motion, report, slips);
    }

    /// <summary>Every stretch between two slips with the markers where they are in it.</summary>
    private static (Motion Motion, SolveReport Report) Once(
        Performer performer,
        MarkerTake take,
        IReadOnlyList<Slip> slips,
        CancellationToken cancel
    )
    {
        int[] edges = [0, .. slips.Select(s => s.Frame).Distinct().Order(), take.FrameCount];
        var motion = new Motion(performer.Skeleton, take.FrameRate, take.FrameCount) { FirstFrame = take.FirstFrame };
        var residuals = new List<float>();
        var warnings = new List<string>();
        double seconds = 0;
        foreach (var (from, to) in edges.Zip(edges.Skip(1)))
        {
            var then = performer with
            {
                Markers =
                [
                    .. performer.Markers.Select(m =>
                        m with
                        {
                            Offset = slips
                                .Where(s => s.Marker == m.Name && s.Frame <= from)
                                .Aggregate(m.Offset, (offset, s) => offset + s.By),
                        }
                    ),
                ],
            };
            var (part, report) = TakeSolver.Solve(then, take.Range(from, to), cancel);
            part.Rotations.CopyTo(motion.Rotations, from * performer.Skeleton.Count);
            part.Translations.CopyTo(motion.Translations, from * performer.Skeleton.Count);
            residuals.AddRange(report.MarkerResiduals);
            warnings.AddRange(report.Warnings);
            seconds += (to - from) / report.FramesPerSecond;
        }

        TakeSolver.KeepHemisphere(motion);
        return (motion, TakeSolver.Report(performer, [.. residuals], take.FrameCount / seconds, warnings, take.FrameCount));
    }

    /// <summary>The way from where a marker sat before to where it sits after it slipped.</summary>
    private static Vector3? Way(BoneOffsets offsets, Slip slip)
    {
        var marker = offsets.Performer.Markers.ToList().FindIndex(m => m.Name == slip.Marker);
        Vector3? Mean(int from, int to)
        {
            var (sum, n) = (Vector3.Zero, 0);
            for (var f = from; f < to; f++)
            {
                if (offsets[f, marker] is var off && MarkerTake.Seen(off))
                {
                    (sum, n) = (sum + off, n + 1);
                }
            }

            return n == 0 ? null : sum / n;
        }

        return Mean(slip.Frame, offsets.FrameCount) - Mean(0, slip.Frame);
    }
}
