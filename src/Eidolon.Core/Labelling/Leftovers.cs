using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Labelling;

/// <summary>
/// A dot without a name beside a body that lacks a marker is a sign that something there is wrong: a toe may stand on the ball's dot and nobody on
/// the toe's. Tries the dot as the marker that is lacking, and as each neighbour whose own dot then becomes the one lacking; keeps what the body explains better.
/// </summary>
internal sealed class Leftovers(MarkerTake take, IReadOnlyList<LabelSubject> subjects, IReadOnlyList<MarkerTake> carried)
{
    private const int Shortest = 24;
    private const float Near = 0.14f;
    private const int Looks = 5;

    /// <summary>Cost of a frame must fall by this much; see <see cref="NamingCost"/>.</summary>
    private const double Better = 3;

    private readonly NamingCost _cost = new(take, subjects, carried);

    /// <summary>The decisions with better names, and how many were changed.</summary>
    public (List<LabelDecider.Decision> Decisions, int Changed) Repair(List<LabelDecider.Decision> decisions, CancellationToken cancel)
    {
        var list = decisions.ToList();
        var changed = 0;
        foreach (var open in decisions.Where(d => d.Subject < 0 && d.End - d.Start + 1 >= Shortest).OrderByDescending(d => d.End - d.Start))
        {
            cancel.ThrowIfCancellationRequested();
            for (var s = 0; s < subjects.Count; s++)
            {
                if (Best(list, open, s) is { } better)
                {
                    list = better;
                    changed++;
                    break;
                }
            }
        }

        return (list, changed);
    }

    private List<LabelDecider.Decision>? Best(List<LabelDecider.Decision> list, LabelDecider.Decision open, int s)
    {
        var frames = Enumerable
            .Range(0, Looks)
            .Select(i => open.Start + ((open.End - open.Start) * ((2 * i) + 1) / (2 * Looks)))
            .Distinct()
            .Where(f => MarkerTake.Seen(carried[s][f, 0]))
            .ToArray();
        if (frames.Length == 0)
        {
            return null;
        }

        var middle = frames[frames.Length / 2];
        var dot = take[middle, open.Fragment.Column];
        var near = Enumerable.Range(0, carried[s].MarkerCount).Where(m => (carried[s][middle, m] - dot).Length() < Near).ToArray();
        if (near.Length == 0)
        {
            return null;
        }

        bool Free(int m, int start, int end) => !list.Exists(d => d.Subject == s && d.Marker == m && d.Start <= end && start <= d.End);
        var options = new List<List<LabelDecider.Decision>>();
        foreach (var lacking in near.Where(m => Free(m, middle, middle)))
        {
            if (Free(lacking, open.Start, open.End))
            {
                options.Add(With(list, (open, open.Start, open.End, s, lacking)));
            }

            foreach (
                var neighbour in list.Where(d =>
                        d.Subject == s && d.Fragment.Given is null && d.Start <= middle && middle <= d.End && near.Contains(d.Marker)
                    )
                    .ToArray()
            )
            {
                // The neighbour's dot takes the lacking name, the open one the neighbour's.
                var (from, to) = (Math.Max(open.Start, neighbour.Start), Math.Min(open.End, neighbour.End));
                if (Free(lacking, from, to))
                {
                    options.Add(With(list, (neighbour, from, to, s, lacking), (open, from, to, s, neighbour.Marker)));
                }
            }
        }

        if (options.Count == 0)
        {
            return null;
        }

        var now = _cost.Of(list, s, frames);
        var (best, least) = (options[0], double.PositiveInfinity);
        foreach (var option in options)
        {
            var cost = _cost.Of(option, s, frames, Math.Min(least, now - Better));
            (best, least) = cost < least ? (option, cost) : (best, least);
        }

        return least < now - Better ? best : null;
    }

    /// <summary>The list with other names on stretches of some of its decisions; what lies before and after a stretch stays as it was.</summary>
    private static List<LabelDecider.Decision> With(
        List<LabelDecider.Decision> list,
        params (LabelDecider.Decision Old, int From, int To, int Subject, int Marker)[] changes
    )
    {
        var result = list.Where(d => !Array.Exists(changes, c => c.Old == d)).ToList();
        foreach (var (old, from, to, subject, marker) in changes)
        {
            result.Add(old with { Start = from, End = to, Subject = subject, Marker = marker, Confidence = 0.5 });
            if (old.Start < from)
            {
                result.Add(old with { End = from - 1 });
            }

            if (old.End > to)
            {
                result.Add(old with { Start = to + 1 });
            }
        }

        return result;
    }
}
