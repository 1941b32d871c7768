using Eidolon.Core.Markers;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Labelling;

/// <summary>
/// Names the dots of a take: trajectories are cut into fragments, all bodies are found once and followed together to both ends, every fragment
/// gets the names the bodies carry past it, and the decision is made a second time with the motion solved from the first. Names that are there
/// already are kept.
/// </summary>
public static class TakeLabeller
{
    /// <summary>Below this a decision needs a look.</summary>
    public const double Sure = 0.55;

    private const int FewestToSolve = 8;

    /// <summary>Looks again with the solved motion at most so often.</summary>
    private const int Rounds = 3;

    /// <summary>Names every dot of a take that can be told.</summary>
    public static LabelResult Label(
        MarkerTake take,
        MarkerSet set,
        IReadOnlyList<LabelSubject> subjects,
        CancellationToken cancel = default,
        IProgress<double>? progress = null
    )
    {
        var full = subjects
            .Select((s, i) => s.Performer.Markers.Select((m, k) => (Name: Full(s, m.Name), At: (i, k))))
            .SelectMany(x => x)
            .GroupBy(x => x.Name, StringComparer.Ordinal)
            .ToDictionary(g => g.Key, g => ((int, int)?)g.First().At, StringComparer.Ordinal);
        // A name of the set that no reference taught is kept as it is, and its dot is nobody else's.
        var kept = take
            .Names.Where(n => !full.ContainsKey(n) && subjects.Any(s => set.Markers.Any(m => Full(s, m.Name) == n)))
            .ToHashSet(StringComparer.Ordinal);
        var fragments = FragmentCutter.Cut(take, name => full.GetValueOrDefault(name), kept.Contains);
        var doubts = new List<LabelDoubt>();
        if (subjects.Count == 0 || fragments.Count == 0)
        {
            return Collect(
                take,
                set,
                subjects,
                [.. fragments.Select(p => new LabelDecider.Decision(p, p.Start, p.End, -1, -1, 0))],
                kept,
                doubts
            );
        }

        var (carried, missing) = new GroupFollower(take, fragments, subjects).Run(cancel, p => progress?.Report(0.6 * p));
        var decisions = Decide(take, fragments, subjects, carried, cancel, p => progress?.Report(p));
        foreach (var s in missing)
        {
            doubts.Add(
                new LabelDoubt(0, subjects[s].Prefix ?? subjects[s].Performer.Name, "the body was not found in any frame: nothing is named")
            );
        }

        progress?.Report(1);
        return Collect(take, set, subjects, decisions, kept, doubts);
    }

    private static List<LabelDecider.Decision> Decide(
        MarkerTake take,
        IReadOnlyList<Fragment> fragments,
        IReadOnlyList<LabelSubject> subjects,
        MarkerTake[] carried,
        CancellationToken cancel,
        Action<double> progress
    )
    {
        var decisions = new LabelDecider(take, fragments, carried).Decide(cancel);
        for (var round = 0; round < Rounds; round++)
        {
            (decisions, var repaired) = new Leftovers(take, subjects, carried).Repair(decisions, cancel);
            (decisions, var exchanged) = new Exchanges(take, subjects, carried).Repair(decisions, cancel);
            (decisions, var turned) = new HandFlips(take, subjects, carried).Repair(decisions, cancel);
            progress(0.65 + (0.15 * round));
            for (var s = 0; s < subjects.Count; s++)
            {
                carried[s] = Solved(take, subjects[s], s, decisions, cancel) ?? carried[s];
            }

            var before = decisions.ToHashSet();
            decisions = new LabelDecider(take, fragments, carried).Decide(cancel);
            if (repaired + exchanged + turned == 0 && Changed(before, decisions) < 0.0005 * take.Positions.Length)
            {
                break;
            }
        }

        return decisions;
    }

    /// <summary>Samples whose name is not what it was.</summary>
    private static long Changed(HashSet<LabelDecider.Decision> before, List<LabelDecider.Decision> now)
    {
        var names = before.Select(d => (d.Fragment, d.Start, d.End, d.Subject, d.Marker)).ToHashSet();
        return now.Where(d => !names.Contains((d.Fragment, d.Start, d.End, d.Subject, d.Marker))).Sum(d => (long)d.End - d.Start + 1);
    }

    private static string Full(LabelSubject s, string marker) => s.Prefix is null ? marker : $"{s.Prefix}:{marker}";

    /// <summary>
    /// Where the motion solved from the names so far carries the markers; hidden in frames that hold too few. Null when there is too little to
    /// solve.
    /// </summary>
    private static MarkerTake? Solved(
        MarkerTake take,
        LabelSubject subject,
        int index,
        List<LabelDecider.Decision> decisions,
        CancellationToken cancel
    )
    {
        var named = new MarkerTake([.. subject.Performer.Markers.Select(m => m.Name)], take.FrameRate, take.FrameCount);
        var count = new int[take.FrameCount];
        foreach (var d in decisions.Where(d => d.Subject == index))
        {
            for (var f = d.Start; f <= d.End; f++)
            {
                named[f, d.Marker] = take[f, d.Fragment.Column];
                count[f]++;
            }
        }

        if (count.Count(c => c >= FewestToSolve) < 2)
        {
            return null;
        }

        var carried = CarriedMarkers.Of([new TakePerformer(0, null, subject.Performer)], named, cancel);
        for (var f = 0; f < count.Length; f++)
        {
            if (count[f] < FewestToSolve)
            {
                carried.At(f).Fill(MarkerTake.Hidden);
            }
        }

        return carried;
    }

    private static LabelResult Collect(
        MarkerTake take,
        MarkerSet set,
        IReadOnlyList<LabelSubject> subjects,
        List<LabelDecider.Decision> decisions,
        IReadOnlySet<string> kept,
        List<LabelDoubt> doubts
    )
    {
        string? NameOf(LabelDecider.Decision d) =>
            d.Subject < 0 ? null : Full(subjects[d.Subject], subjects[d.Subject].Performer.Markers[d.Marker].Name);
        var names = subjects.SelectMany(s => set.Markers.Select(m => Full(s, m.Name))).Distinct().ToList();
        names.AddRange(decisions.Select(NameOf).OfType<string>().Distinct().Except(names).Order(StringComparer.Ordinal).ToList());
        var loose = decisions.Where(d => d.Subject < 0).Select(d => d.Fragment.Column).Distinct().Order().ToList();
        // A column that keeps a name of its own must not be mistaken for a named one.
        var extra = loose.ConvertAll(c => names.Contains(take.Names[c]) ? $"{take.Names[c]}_left" : take.Names[c]);
        var columnOf = names.Select((n, i) => (n, i)).ToDictionary(x => x.n, x => x.i, StringComparer.Ordinal);
        var looseOf = loose.Select((c, i) => (c, i)).ToDictionary(x => x.c, x => names.Count + x.i);
        var result = new MarkerTake([.. names, .. extra], take.FrameRate, take.FrameCount)
        {
            FirstFrame = take.FirstFrame,
            Warnings = take.Warnings,
        };
        long labelled = 0,
            visible = 0;
        foreach (var name in kept)
        {
            var from = take.IndexOf(name);
            for (var f = 0; f < take.FrameCount; f++)
            {
                result[f, columnOf[name]] = take[f, from];
            }

            visible += take.VisibleFrames(from);
            labelled += take.VisibleFrames(from);
        }

        foreach (var d in decisions)
        {
            var name = NameOf(d);
            var column = name is null ? looseOf[d.Fragment.Column] : columnOf[name];
            for (var f = d.Start; f <= d.End; f++)
            {
                result[f, column] = take[f, d.Fragment.Column];
            }

            visible += d.End - d.Start + 1;
            labelled += name is null ? 0 : d.End - d.Start + 1;
            if (name is not null && d.Confidence < Sure)
            {
                doubts.Add(new LabelDoubt(d.Start, name, $"sure by {d.Confidence * 100:0} % only, frames {d.Start} to {d.End}"));
            }
        }

        var pieces = decisions
            .Select(d => new LabelledPiece(d.Fragment.Column, d.Start, d.End, NameOf(d), d.Confidence, d.Fragment.Given is not null))
            .OrderBy(p => p.Start)
            .ToList();
        return new LabelResult(result, labelled / (double)Math.Max(1, visible), pieces, [.. doubts.OrderBy(d => d.Frame)]);
    }
}
