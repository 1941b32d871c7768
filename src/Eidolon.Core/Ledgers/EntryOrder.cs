using Eidolon.Core.Operations;

namespace Eidolon.Core.Ledgers;

/// <summary>What may be done to the order of a node's entries.</summary>
public static class EntryOrder
{
    /// <summary>May two neighbours trade places? Only where both work on what the other leaves: cleaning among cleaning, layers among layers.</summary>
    public static bool MayTrade(Entry a, Entry b) => GroupOf(a) is { } group && group == GroupOf(b);

    /// <summary>Moves an entry to another place, past neighbours it may trade with.</summary>
    /// <exception cref="RefusedException">One on the way must stay before or after it; says which.</exception>
    public static IReadOnlyList<Entry> Move(IReadOnlyList<Entry> entries, int from, int to)
    {
        if (from < 0 || from >= entries.Count || to < 0 || to >= entries.Count)
        {
            throw new RefusedException("there is no such place in the Ledger");
        }

        var list = entries.ToList();
        var step = Math.Sign(to - from);
        for (var i = from; i != to; i += step)
        {
            if (!MayTrade(list[i], list[i + step]))
            {
                var (moved, other) = (OperationRegistry.TitleOf(list[i].Operation), OperationRegistry.TitleOf(list[i + step].Operation));
                throw new RefusedException($"'{moved}' cannot go {(step > 0 ? "after" : "before")} '{other}'");
            }

            (list[i], list[i + step]) = (list[i + step], list[i]);
        }

        return list;
    }

    /// <summary>
    /// Where a new entry goes: a set-up before everything of its node but what speaks of its recording; what speaks of the recording before the
    /// set-up that works on it; all others last, or where a person wished, after the set-ups.
    /// </summary>
    public static int PlaceFor(IReadOnlyList<Entry> entries, Operation operation, int? wish = null)
    {
        var list = entries.ToList();
        if (operation.SetUp)
        {
            return entries.TakeWhile(e => Known(e)?.AheadOf.Contains(operation.Name) ?? false).Count();
        }

        var ahead = list.FindIndex(e => operation.AheadOf.Contains(e.Operation));
        return ahead >= 0 ? ahead : Math.Clamp(wish ?? list.Count, list.FindLastIndex(e => Known(e)?.SetUp ?? false) + 1, list.Count);
    }

    private static Operation? Known(Entry entry) => OperationRegistry.TryFind(entry.Operation, out var o) ? o : null;

    private static string? GroupOf(Entry entry) => Known(entry)?.OrderGroup;
}
