using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Quality;

/// <summary>Findings of a labelled take: gaps, spikes, swaps, markers never seen. Worst first.</summary>
public static class MarkerFindings
{
    public static List<Finding> Find(MarkerTake take)
    {
        var findings = new List<Finding>();
        for (var m = 0; m < take.MarkerCount; m++)
        {
            var name = take.Names[m];
            foreach (var g in take.Gaps(m))
            {
                if (g.Length == take.FrameCount)
                {
                    findings.Add(new Finding("missing", 0, g.End, Severity.MustFix, name, "never seen", g.Length));
                    continue;
                }

                var seconds = g.Length / take.FrameRate;
                var edge = g.Start == 0 || g.End == take.FrameCount - 1;
                var severity = seconds > 0.5 ? Severity.MustFix : seconds > 0.08 ? Severity.Look : Severity.Note;
                findings.Add(new Finding("gap", g.Start, g.End, edge && severity == Severity.MustFix ? Severity.Look : severity, name, $"{g.Length} frames, {seconds:0.00} s", g.Length));
            }
        }

        findings.AddRange(Spikes.Find(take).Select(s => new Finding("spike", s.Frame, s.Frame, Severity.Look, take.Names[s.Marker], $"{s.SizeMetres * 1000:0} mm off", s.SizeMetres * 1000)));
        findings.AddRange(SwapFinder.Find(take).Select(s => new Finding("swap", s.Frame, s.Frame, Severity.MustFix, take.Names[s.A], $"trades places with {take.Names[s.B]}", s.Frame) { Other = take.Names[s.B] }));
        return Order(findings);
    }

    public static List<Finding> Order(IEnumerable<Finding> findings) => [.. findings.OrderBy(f => f.Severity).ThenByDescending(f => f.Measure).ThenBy(f => f.Start)];
}
