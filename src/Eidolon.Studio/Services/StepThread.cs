using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Storage.Model;

namespace Eidolon.Studio.Services;

/// <summary>The eight Steps and how far a take has come.</summary>
public static class StepThread
{
    public static IReadOnlyList<string> Names { get; } = ["Record", "Label", "Clean", "Solve", "Retarget", "Assemble", "Polish", "Export"];

    /// <summary>Which Steps a take was through at the last look.</summary>
    public static bool[] Through(Take take) => [.. Enumerable.Range(0, Names.Count).Select(i => (take.Through >> i & 1) == 1)];

    /// <summary>The Steps of an opened take as a bit each; the scene's own come with it.</summary>
    /// <param name="scene">What the take's scene is through, the same bits; 0 when there is none.</param>
    public static int Bits(OpenTake open, int scene)
    {
        var take = open.Marked;
        // A motion came without markers: there is nothing to label, clean or solve.
        var motionOnly = take.MarkerCount == 0 && (open.Solved.Any() || open.Unmarked.Any());
        var labelled = open.Markers.Has("label") || IsOf(StateNotes.SetOf(open), take) || motionOnly;
        bool[] through =
        [
            open.Take.State == TakeState.Kept,
            labelled,
            motionOnly
                || open.Markers.Node.Entries.Any(e => e.On && OperationRegistry.TryFind(e.Operation, out var o) && o.Step == "Clean"),
            open.Performers.Count > 0
                && open.Performers.All(p =>
                    p.State.Has(p.Solver) || (!p.Suit && !p.Filmed && p.State is { UpToDate: true, Node.Inputs.Count: 0 })
                ),
            open.Casts.Any(c => c.State.Has("retarget")),
        ];
        return through.Select((t, i) => t ? 1 << i : 0).Sum() | (scene & ~0b11111);
    }

    /// <summary>At least half of a take's names are the set's; a file with names of its own is not labelled yet.</summary>
    public static bool IsOf(MarkerSet set, MarkerTake take)
    {
        var names = take.Names.Where(n => !MarkerNames.IsUnnamed(n)).Select(n => MarkerNames.Split(n).Marker).ToArray();
        var known = set.Markers.Select(m => m.Name).ToHashSet(StringComparer.Ordinal);
        return names.Length > 0 && names.Count(known.Contains) * 2 >= names.Length;
    }

    /// <summary>The next Step to do.</summary>
    public static int Next(Take take)
    {
        var last = Array.FindLastIndex(Through(take), t => t);
        return Math.Min(last + 1, Names.Count - 1);
    }
}
