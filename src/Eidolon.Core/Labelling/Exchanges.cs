using Eidolon.Core.Markers;

namespace Eidolon.Core.Labelling;

/// <summary>
/// Two neighbours that carry each other's names through the whole take fit nearly as well as the right way round, and no frame shows it.
/// Exchanges the names of the markers that fit worst with those of their neighbours, solves again, and keeps what fits clearly better.
/// </summary>
internal sealed class Exchanges(MarkerTake take, IReadOnlyList<LabelSubject> subjects, IReadOnlyList<MarkerTake> carried)
{
    private const int Suspects = 12;
    private const double Reach = 0.11;
    private const int Looks = 6;
    private readonly NamingCost _cost = new(take, subjects, carried);

    /// <summary>The decisions with better names, and how many pairs were exchanged.</summary>
    public (List<LabelDecider.Decision> Decisions, int Changed) Repair(List<LabelDecider.Decision> decisions, CancellationToken cancel)
    {
        var changed = 0;
        for (var s = 0; s < subjects.Count; s++)
        {
            var (off, frames) = Fit(decisions, s);
            foreach (var a in Enumerable.Range(0, off.Length).Where(m => off[m] > 0).OrderByDescending(m => off[m]).Take(Suspects))
            {
                cancel.ThrowIfCancellationRequested();
                if (frames.Length == 0)
                {
                    break;
                }

                var now = _cost.Of(decisions, s, frames);
                foreach (var b in Enumerable.Range(0, off.Length).Where(m => m != a && Apart(s, a, m, frames) < Reach))
                {
                    var other = decisions.ConvertAll(d =>
                        d.Subject != s || d.Fragment.Given is not null ? d
                        : d.Marker == a ? d with { Marker = b }
                        : d.Marker == b ? d with { Marker = a }
                        : d
                    );
                    var cost = _cost.Of(other, s, frames, Math.Min(0.85 * now, now - 0.15));
                    if (cost < (0.85 * now) && cost < now - 0.15)
                    {
                        (decisions, now) = (other, cost);
                        changed++;
                    }
                }
            }
        }

        return (decisions, changed);
    }

    /// <summary>Mean distance of each marker's dots from where it is carried, metres; and frames, spread over the take, that show the most markers.</summary>
    private (double[] Off, int[] Frames) Fit(List<LabelDecider.Decision> decisions, int s)
    {
        var (sum, n) = (new double[carried[s].MarkerCount], new int[carried[s].MarkerCount]);
        var seen = new int[take.FrameCount];
        foreach (var d in decisions.Where(d => d.Subject == s))
        {
            for (var f = d.Start; f <= d.End; f++)
            {
                seen[f]++;
                if (MarkerTake.Seen(carried[s][f, d.Marker]))
                {
                    sum[d.Marker] += (carried[s][f, d.Marker] - take[f, d.Fragment.Column]).Length();
                    n[d.Marker]++;
                }
            }
        }

        var stretch = Math.Max(1, take.FrameCount / Looks);
        int[] frames =
        [
            .. Enumerable
                .Range(0, Looks)
                .Select(i => (Start: i * stretch, End: Math.Min(take.FrameCount, (i + 1) * stretch)))
                .Where(r => r.Start < r.End)
                .Select(r => Enumerable.Range(r.Start, r.End - r.Start).MaxBy(f => seen[f]))
                .Where(f => seen[f] >= 8),
        ];
        return ([.. sum.Select((v, m) => n[m] == 0 ? 0 : v / n[m])], frames);
    }

    private double Apart(int s, int a, int b, int[] frames) =>
        frames
            .Where(f => MarkerTake.Seen(carried[s][f, a]))
            .Select(f => (double)(carried[s][f, a] - carried[s][f, b]).Length())
            .DefaultIfEmpty(double.PositiveInfinity)
            .Average();
}
