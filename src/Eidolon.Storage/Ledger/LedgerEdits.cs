using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;

namespace Eidolon.Storage.Ledger;

/// <summary>Applies changes to a draft: the rules of the Ledger, and nothing of databases.</summary>
public static class LedgerEdits
{
    /// <summary>What came of a change.</summary>
    /// <param name="Touched">Ids or, for new entries, places of the entries that must work for the change to be kept: (node, index).</param>
    /// <param name="Words">For people.</param>
    public sealed record Outcome(LedgerDraft Draft, IReadOnlyList<(int Node, int Index)> Touched, string Words);

    /// <exception cref="RefusedException">It cannot be done on this Ledger; says why.</exception>
    public static Outcome Apply(LedgerDraft draft, LedgerChange change) =>
        change switch
        {
            AddEntries add => Add(draft, add),
            EditEntry edit => Edit(draft, edit),
            SwitchEntry turn => Switch(draft, turn),
            MoveEntry move => Move(draft, move),
            RemoveEntry remove => Remove(draft, remove),
            TakeBackEntry => TakeBack(draft),
            BringAgain => Again(draft),
            RestoreVersion version => Restore(draft, LedgerSnapshot.Read(version.Entries)),
            BackToOriginal => Original(draft),
            BringUpVersion up => OnEntry(draft, up.Entry, (e, o) => e with { Entry = e.Entry with { Version = o.Version } }, "brought up"),
            _ => throw new NotSupportedException($"{change.GetType().Name} is no change"),
        };

    private static Outcome Add(LedgerDraft draft, AddEntries add)
    {
        var words = new List<string>();
        var touched = new List<(int Node, int Index)>();
        var added = draft.NextAdded;
        foreach (var wish in add.Entries)
        {
            var operation = OperationRegistry.Find(wish.Operation);
            var nodes = draft.Nodes.Where(n => n.Kind == operation.Node && (wish.Node is null || wish.Node == n.Id)).ToArray();
            if (nodes.Length == 0)
            {
                throw new RefusedException(NoPlaceFor(operation));
            }

            foreach (var node in nodes)
            {
                var own = draft.Find(node.Id)!.Entries.ToList();
                var at = Place(own, operation, wish);
                var entry = operation.Entry(Said(own, at, operation, wish.Parameters));
                if (at < own.Count && Single(operation) && operation.TakesPlaceOf(own[at].Entry.Operation))
                {
                    // What there is only one of and is there already is changed, and counts as the newest.
                    own[at] = own[at].Entry.Means(entry) ? own[at] with { Added = added++ } : own[at].ChangedTo(entry, added++);
                }
                else
                {
                    own.Insert(at, DraftEntry.New(entry, added++));
                    touched = [.. touched.Select(t => t.Node == node.Id && t.Index >= at ? (t.Node, t.Index + 1) : t)];
                }

                touched.Add((node.Id, at));
                draft = draft.With(node, own);
            }

            words.Add(operation.Title.ToLowerInvariant());
        }

        return new Outcome(draft with { TakenBack = [] }, touched, string.Join(", ", words));
    }

    /// <summary>The parameters wished for; where nothing is, and the operation stood in that place before another took it, what it said then.</summary>
    private static JsonObject Said(List<DraftEntry> own, int at, Operation operation, JsonObject wished) =>
        wished.Count == 0 && at < own.Count && own[at].Entry.Operation != operation.Name && operation.TakesPlaceOf(own[at].Entry.Operation)
            ? own[at].Earlier.ParametersOf(operation.Name) ?? []
            : wished.DeepClone().AsObject();

    private static int Place(List<DraftEntry> own, Operation operation, NewEntry wish)
    {
        var known = Single(operation) ? own.FindIndex(e => operation.TakesPlaceOf(e.Entry.Operation)) : -1;
        return known >= 0 ? known : EntryOrder.PlaceFor([.. own.Select(e => e.Entry)], operation, wish.At);
    }

    private static bool Single(Operation operation) => operation.SetUp || operation.Once;

    private static string NoPlaceFor(Operation operation) =>
        operation.Node switch
        {
            NodeKind.Cast => "no performer of this take plays a character yet: say who plays whom",
            NodeKind.Solve => "nobody is on the slate of this take: say who performed",
            NodeKind.Places => "no prop is on the slate of this take",
            NodeKind.Attached => "no prop is attached to a character in this take yet",
            NodeKind.Track or NodeKind.Layers => "nobody is in this scene yet",
            _ => $"'{operation.Title}' has no place here",
        };

    private static Outcome Edit(LedgerDraft draft, EditEntry edit)
    {
        var (after, touched, words) = OnEntry(draft, edit.Entry, Merge, "changed");
        // As with what is added: after something new, what was taken back before cannot be brought again.
        var (node, at) = Find(draft, edit.Entry);
        var same = after.Find(node.Id)!.Entries[at] == node.Entries[at];
        return new Outcome(same ? draft : after with { TakenBack = [] }, touched, words);

        DraftEntry Merge(DraftEntry e, Operation operation)
        {
            var merged = e.Entry.Parameters.DeepClone().AsObject();
            foreach (var (key, value) in edit.Parameters)
            {
                merged[key] = value?.DeepClone();
            }

            var entry = operation.Entry(merged) with { On = e.Entry.On };
            return e.Entry.Means(entry) ? e : e.ChangedTo(entry, draft.NextAdded);
        }
    }

    /// <summary>An entry runs otherwise than before: it must work for the change to be kept.</summary>
    private static Outcome OnEntry(LedgerDraft draft, int id, Func<DraftEntry, Operation, DraftEntry> change, string word)
    {
        var (node, at) = Find(draft, id);
        if (!OperationRegistry.TryFind(node.Entries[at].Entry.Operation, out var operation))
        {
            throw new RefusedException($"there is no operation '{node.Entries[at].Entry.Operation}' (any more)");
        }

        return new Outcome(Replaced(draft, node, at, change(node.Entries[at], operation)), [(node.Id, at)], $"{operation.Title} {word}");
    }

    /// <summary>Any entry can be switched, also one whose operation is not known any more.</summary>
    private static Outcome Switch(LedgerDraft draft, SwitchEntry turn)
    {
        var (node, at) = Find(draft, turn.Entry);
        var entry = node.Entries[at];
        var turned = entry with { Entry = entry.Entry with { On = turn.On } };
        var title = OperationRegistry.TitleOf(entry.Entry.Operation);
        return new Outcome(Replaced(draft, node, at, turned), [], $"{title} {(turn.On ? "on again" : "off")}");
    }

    private static LedgerDraft Replaced(LedgerDraft draft, DraftNode node, int at, DraftEntry entry) =>
        draft.With(node, [.. node.Entries.Select((e, i) => i == at ? entry : e)]);

    private static Outcome Move(LedgerDraft draft, MoveEntry move)
    {
        var (node, at) = Find(draft, move.Entry);
        EntryOrder.Move([.. node.Entries.Select(e => e.Entry)], at, move.To);
        var entries = node.Entries.ToList();
        var moved = entries[at];
        entries.RemoveAt(at);
        entries.Insert(move.To, moved);
        return new Outcome(draft.With(node, entries), [], "another order");
    }

    private static Outcome Remove(LedgerDraft draft, RemoveEntry remove)
    {
        var (node, at) = Find(draft, remove.Entry);
        var title = OperationRegistry.TitleOf(node.Entries[at].Entry.Operation);
        return new Outcome(Without(draft, node, at), [], $"{title} taken out");
    }

    private static Outcome TakeBack(LedgerDraft draft)
    {
        var last = draft
            .Nodes.SelectMany(n => n.Entries.Select((e, i) => (Node: n, Index: i, e.Added)))
            .OrderByDescending(x => x.Added)
            .FirstOrDefault();
        if (last.Node is null)
        {
            throw new RefusedException("there is nothing to take back");
        }

        var newest = last.Node.Entries[last.Index];
        var title = OperationRegistry.TitleOf(newest.Entry.Operation);
        if (newest.Earlier.Last(newest.Entry.Operation) is var (before, added, rest))
        {
            // It was there before and was changed: it says again what it said.
            var entries = last.Node.Entries.ToList();
            entries[last.Index] = newest with { Entry = before, Added = added, Earlier = rest };
            return new Outcome(
                draft.With(last.Node, entries) with
                {
                    TakenBack = [new TakenBackEntry(last.Node.Id, last.Index, newest.Entry, true), .. draft.TakenBack],
                },
                [(last.Node.Id, last.Index)],
                $"{title} as before"
            );
        }

        return new Outcome(Without(draft, last.Node, last.Index), [], $"{title} taken back");
    }

    private static LedgerDraft Without(LedgerDraft draft, DraftNode node, int at)
    {
        var entries = node.Entries.ToList();
        var gone = entries[at];
        entries.RemoveAt(at);
        return draft.With(node, entries) with { TakenBack = [new TakenBackEntry(node.Id, at, gone.Entry), .. draft.TakenBack] };
    }

    private static Outcome Again(LedgerDraft draft)
    {
        if (draft.TakenBack.Count == 0 || draft.Find(draft.TakenBack[0].Node) is not { } node)
        {
            throw new RefusedException("there is nothing to bring again");
        }

        var first = draft.TakenBack[0];
        var entries = node.Entries.ToList();
        var at = Math.Min(first.Position, entries.Count);
        if (
            first.Replaces
            && at < entries.Count
            && OperationRegistry.TryFind(first.Entry.Operation, out var again)
            && again.TakesPlaceOf(entries[at].Entry.Operation)
        )
        {
            entries[at] = entries[at].ChangedTo(first.Entry, draft.NextAdded);
        }
        else
        {
            entries.Insert(at, DraftEntry.New(first.Entry, draft.NextAdded));
        }

        return new Outcome(
            draft.With(node, entries) with
            {
                TakenBack = [.. draft.TakenBack.Skip(1)],
            },
            [],
            $"{OperationRegistry.TitleOf(first.Entry.Operation)} again"
        );
    }

    private static Outcome Restore(LedgerDraft draft, IReadOnlyList<LedgerSnapshot.Node> nodes)
    {
        var added = draft.NextAdded;
        var restored = draft.Nodes.Select(n =>
            n with
            {
                Entries =
                [
                    .. (nodes.FirstOrDefault(s => (s.Kind, s.Scope, s.Source) == (n.Kind, n.Scope, n.Source))?.Entries ?? []).Select(e =>
                        n.Entries.FirstOrDefault(o => o.Entry.Means(e)) is { } same ? same with { Id = 0 } : DraftEntry.New(e, added++)
                    ),
                ],
            }
        );
        return new Outcome(draft with { Nodes = [.. restored], TakenBack = [] }, [], "version brought back");
    }

    private static Outcome Original(LedgerDraft draft) =>
        new(draft with { Nodes = [.. draft.Nodes.Select(n => n with { Entries = [] })], TakenBack = [] }, [], "back to the original");

    private static (DraftNode Node, int Index) Find(LedgerDraft draft, int entry) =>
        draft.FindEntry(entry) ?? throw new RefusedException("that entry is gone");
}
