using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Quality;

/// <summary>Findings of a labelled take: gaps, spikes, swaps, jitter, link drift, stillness, markers never seen. Worst first.</summary>
public static class MarkerFindings
{
    /// <summary>A search through a long take leaves a processor to the person who is at work on it.</summary>
    internal static ParallelOptions Quietly { get; } = new() { MaxDegreeOfParallelism = Math.Max(1, Environment.ProcessorCount - 1) };

    /// <param name="set">Without a set links are not looked at.</param>
    public static List<Finding> Find(MarkerTake take, MarkerSet? set = null)
    {
        var findings = new List<Finding>();
        var gaps = GapTable.Of(take);
        for (var m = 0; m < take.MarkerCount; m++)
        {
            findings.AddRange(gaps[m].Select(g => OfGap(take, take.Names[m], g)));
        }

        findings.AddRange(
            Spikes
                .Find(take)
                .Select(s => new Finding(
                    "spike",
                    s.Frame,
                    s.Frame,
                    Severity.Look,
                    take.Names[s.Marker],
                    $"{s.SizeMetres * 1000:0} mm off",
                    s.SizeMetres * 1000
                ))
        );
        findings.AddRange(
            SwapFinder
                .Find(take)
                .Select(s => new Finding(
                    "swap",
                    s.Frame,
                    s.Frame,
                    Severity.MustFix,
                    take.Names[s.A],
                    $"trades places with {take.Names[s.B]}",
                    s.Frame
                )
                {
                    Other = take.Names[s.B],
                })
        );
        findings.AddRange(
            JitterFinder
                .Find(take)
                .Select(t => new Finding(
                    "jitter",
                    t.Start,
                    t.End,
                    Severity.Look,
                    take.Names[t.Marker],
                    $"{t.Rms:0} m/s² above 15 Hz, usually {t.Usual:0}",
                    t.Rms
                ))
        );
        findings.AddRange(
            StillnessFinder
                .Find(take)
                .Select(s => new Finding(
                    "stillness",
                    s.Start,
                    s.End,
                    Severity.MustFix,
                    take.Names[s.Marker],
                    $"does not move at all for {s.End - s.Start + 1} frames",
                    s.End - s.Start + 1
                ))
        );
        if (set is not null)
        {
            findings.AddRange(
                LinkDriftFinder
                    .Find(take, set)
                    .Select(d => new Finding(
                        "link drift",
                        d.Start,
                        d.End,
                        d.Off > 0.05f ? Severity.MustFix : Severity.Look,
                        take.Names[d.Marker],
                        $"{d.Off * 1000:0} mm off the usual distance to {MarkerNames.Split(take.Names[d.Neighbour]).Marker}",
                        d.Off * 1000
                    )
                    {
                        Other = take.Names[d.Neighbour],
                    })
            );
        }

        return Order(findings);
    }

    /// <summary>Worst first, then by frame.</summary>
    public static List<Finding> Order(IEnumerable<Finding> findings) =>
        [.. findings.OrderBy(f => f.Severity).ThenByDescending(f => f.Measure).ThenBy(f => f.Start)];

    private static Finding OfGap(MarkerTake take, string name, Gap g)
    {
        if (g.Length == take.FrameCount)
        {
            return new Finding("missing", 0, g.End, Severity.MustFix, name, "never seen", g.Length);
        }

        var seconds = g.Length / take.FrameRate;
        var edge = g.Start == 0 || g.End == take.FrameCount - 1;
        var severity =
            seconds > 0.5 ? Severity.MustFix
            : seconds > 0.08 ? Severity.Look
            : Severity.Note;
        return new Finding(
            "gap",
            g.Start,
            g.End,
            edge && severity == Severity.MustFix ? Severity.Look : severity,
            name,
            $"{g.Length} frames, {seconds:0.00} s",
            g.Length
        );
    }
}
