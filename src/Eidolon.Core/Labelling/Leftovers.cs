using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Labelling;

/// <summary>
/// A dot without a name beside a body that lacks a marker is a sign that something there is wrong: a toe may stand on the ball's dot and nobody on
/// the toe's. Tries the dot as the marker that is lacking, and as each neighbour whose own dot then becomes the one lacking; keeps what the
/// body explains better.
/// </summary>
internal sealed class Leftovers(MarkerTake take, IReadOnlyList<LabelSubject> subjects, IReadOnlyList<MarkerTake> carried)
{
    /// <summary>Shorter stretches are left alone, seconds.</summary>
    private const double Shortest = 0.2;

    private const float Near = 0.16f;
    private const int Looks = 5;

    /// <summary>A name counts as lacking where it is borne for at most this share of a stretch.</summary>
    private const double MostTaken = 0.1;

    /// <summary>Cost of a frame must fall by this much; see <see cref="NamingCost"/>.</summary>
    private const double Better = 3;

    private readonly NamingCost _cost = new(take, subjects, carried);

    /// <summary>The decisions with better names, and how many were changed.</summary>
    public (List<LabelDecider.Decision> Decisions, int Changed) Repair(List<LabelDecider.Decision> decisions, CancellationToken cancel)
    {
        var list = decisions.ToList();
        var changed = 0;
        foreach (
            var open in decisions
                .Where(d => d.Subject < 0 && d.End - d.Start + 1 >= Shortest * take.FrameRate)
                .OrderByDescending(d => d.End - d.Start)
        )
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

        // A brief piece that bears the name already, a ghost mostly, is no reason to leave a long one without it.
        bool Free(int m, int start, int end) =>
            list.Where(d => d.Subject == s && d.Marker == m && d.Start <= end && start <= d.End)
                .Sum(d => Math.Min(d.End, end) - Math.Max(d.Start, start) + 1)
                <= MostTaken * (end - start + 1)
            && !list.Exists(d => d.Subject == s && d.Marker == m && d.Fragment.Given is not null && d.Start <= end && start <= d.End);
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

        // Beside a hand the forearm may have been turned the wrong way, and then no other name fits from there.
        var performer = subjects[s].Performer;
        var hand = Array.Exists(near, m =>
            Free(m, middle, middle) && BodyRoles.Stem(performer.Skeleton[performer.Markers[m].Joint].Role ?? BodyRole.Root) == "Hand"
        );
        var now = _cost.Of(list, s, frames, turns: hand);
        var (best, least) = (options[0], double.PositiveInfinity);
        foreach (var option in options)
        {
            var cost = _cost.Of(option, s, frames, Math.Min(least, now - Better), hand);
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
        var result = new List<LabelDecider.Decision>();
        foreach (var d in list)
        {
            if (Array.Exists(changes, c => c.Old == d))
            {
                continue;
            }

            // What bore the name in the same frames loses it there.
            var change = Array.FindIndex(changes, c =>
                c.Subject == d.Subject && c.Marker == d.Marker && d.Start <= c.To && c.From <= d.End
            );
            if (change < 0)
            {
                result.Add(d);
                continue;
            }

            var (first, last) = (Math.Max(d.Start, changes[change].From), Math.Min(d.End, changes[change].To));
            result.Add(d with { Start = first, End = last, Subject = -1, Marker = -1, Confidence = 0 });
            if (d.Start < first)
            {
                result.Add(d with { End = first - 1 });
            }

            if (d.End > last)
            {
                result.Add(d with { Start = last + 1 });
            }
        }

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
