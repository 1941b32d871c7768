using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Labelling;

/// <summary>
/// A hand that was hidden and comes back may be taken for the same hand turned about the forearm: for a while its two markers, or those of the wrist,
/// or both pairs, bear each other's names. Each stretch of such a marker is tried with its pairs exchanged, from forearms turned either way,
/// and what fits clearly better is kept.
/// </summary>
internal sealed class HandFlips(MarkerTake take, IReadOnlyList<LabelSubject> subjects, IReadOnlyList<MarkerTake> carried)
{
    /// <summary>Shorter stretches are left alone, seconds.</summary>
    private const double Shortest = 0.03;

    /// <summary>Pairs farther apart than this are no neighbours, metres.</summary>
    private const double Reach = 0.12;

    private const int Looks = 5;

    /// <summary>At most so many stretches of a hand are tried, and only those whose dots lie this far from where they should, metres.</summary>
    private const int Most = 6;

    private const double Suspicious = 0.006;

    /// <summary>What the hand costs in a frame must fall to this share, and by this much; see <see cref="NamingCost"/>.</summary>
    private const double Share = 0.85,
        Better = 0.15;

    private readonly NamingCost _cost = new(take, subjects, carried);

    /// <summary>The decisions with better names, and how many stretches were turned.</summary>
    public (List<LabelDecider.Decision> Decisions, int Changed) Repair(List<LabelDecider.Decision> decisions, CancellationToken cancel)
    {
        var changed = 0;
        for (var s = 0; s < subjects.Count; s++)
        {
            foreach (var side in "LR")
            {
                foreach (var stretch in Stretches(decisions, s, side))
                {
                    cancel.ThrowIfCancellationRequested();
                    if (Turned(decisions, s, side, stretch) is { } better)
                    {
                        (decisions, changed) = (better, changed + 1);
                    }
                }
            }
        }

        return (decisions, changed);
    }

    private BodyRole RoleOf(int s, int marker)
    {
        var performer = subjects[s].Performer;
        return performer.Skeleton[performer.Markers[marker].Joint].Role ?? BodyRole.Root;
    }

    private bool IsOf(int s, int marker, char side) =>
        RoleOf(s, marker) is var role && BodyRoles.Stem(role) is "Hand" or "Forearm" && BodyRoles.Side(RoleOf(s, marker)) == side;

    /// <summary>Stretches of the hand's markers that fit worst; a hand that is turned the wrong way is among them.</summary>
    private List<(int Start, int End)> Stretches(List<LabelDecider.Decision> list, int s, char side) =>
        [
            .. list.Where(d => d.Subject == s && d.Fragment.Given is null && IsOf(s, d.Marker, side))
                .Where(d => d.End - d.Start + 1 >= Shortest * take.FrameRate)
                .Select(d => (d.Start, d.End, Off: Off(d)))
                .Where(d => d.Off > Suspicious)
                .OrderByDescending(d => d.Off)
                .Select(d => (d.Start, d.End))
                .Distinct()
                .Take(Most),
        ];

    /// <summary>Mean distance of a piece's dots from where the body carries its marker, metres; 0 where the body is lost.</summary>
    private double Off(LabelDecider.Decision d)
    {
        var step = Math.Max(1, (d.End - d.Start) / 20);
        var (sum, n) = (0.0, 0);
        for (var f = d.Start; f <= d.End; f += step)
        {
            var at = carried[d.Subject][f, d.Marker];
            if (MarkerTake.Seen(at))
            {
                (sum, n) = (sum + (at - take[f, d.Fragment.Column]).Length(), n + 1);
            }
        }

        return n == 0 ? 0 : sum / n;
    }

    private List<LabelDecider.Decision>? Turned(List<LabelDecider.Decision> list, int s, char side, (int Start, int End) at)
    {
        int[] frames =
        [
            .. Enumerable
                .Range(0, Looks)
                .Select(i => at.Start + ((at.End - at.Start) * ((2 * i) + 1) / (2 * Looks)))
                .Distinct()
                .Where(f => MarkerTake.Seen(carried[s][f, 0])),
        ];
        if (frames.Length == 0)
        {
            return null;
        }

        var middle = frames[frames.Length / 2];
        var own = Enumerable.Range(0, carried[s].MarkerCount).Where(m => IsOf(s, m, side)).ToArray();
        var pairs = own.SelectMany(a => own.Where(b => b > a).Select(b => (A: a, B: b)))
            .Where(p => RoleOf(s, p.A) == RoleOf(s, p.B) && (carried[s][middle, p.A] - carried[s][middle, p.B]).Length() < Reach)
            .ToArray();
        var (now, rest) = (double.NaN, 0.0);
        List<LabelDecider.Decision>? best = null;
        for (var set = 1; set < 1 << Math.Min(3, pairs.Length); set++)
        {
            var chosen = pairs.Where((_, i) => (set & (1 << i)) != 0).ToArray();
            if (chosen.SelectMany(p => new[] { p.A, p.B }).Distinct().Count() < chosen.Length * 2)
            {
                continue;
            }

            if (double.IsNaN(now))
            {
                now = _cost.Of(list, s, frames, turns: true);
                // What the rest of the body is off says nothing about the hand.
                rest = Math.Min(now, _cost.Of([.. list.Where(d => d.Subject != s || !IsOf(s, d.Marker, side))], s, frames));
            }

            var other = Exchanged(list, s, chosen, at);
            var limit = Math.Min(rest + (Share * (now - rest)), now - Better);
            var cost = other is null ? double.PositiveInfinity : _cost.Of(other, s, frames, limit, turns: true);
            if (cost < limit)
            {
                (best, now) = (other, cost);
            }
        }

        return best;
    }

    /// <summary>The pairs exchanged inside the stretch; null where a person gave one of the names.</summary>
    private static List<LabelDecider.Decision>? Exchanged(
        List<LabelDecider.Decision> list,
        int s,
        (int A, int B)[] pairs,
        (int Start, int End) at
    )
    {
        var result = new List<LabelDecider.Decision>();
        foreach (var d in list)
        {
            var pair = Array.FindIndex(pairs, p => d.Subject == s && (d.Marker == p.A || d.Marker == p.B));
            if (pair < 0 || d.End < at.Start || d.Start > at.End)
            {
                result.Add(d);
                continue;
            }

            if (d.Fragment.Given is not null)
            {
                return null;
            }

            var marker = d.Marker == pairs[pair].A ? pairs[pair].B : pairs[pair].A;
            var (from, to) = (Math.Max(d.Start, at.Start), Math.Min(d.End, at.End));
            result.Add(d with { Start = from, End = to, Marker = marker, Confidence = 0.5 });
            if (d.Start < from)
            {
                result.Add(d with { End = from - 1 });
            }

            if (d.End > to)
            {
                result.Add(d with { Start = to + 1 });
            }
        }

        return result;
    }
}
