using Eidolon.Core.Operations;
using Eidolon.Storage.Model;

namespace Eidolon.Storage.Ledger;

/// <summary>An entry as it is edited.</summary>
/// <param name="Id">Of its row; 0 for one that is new.</param>
/// <param name="Key">Of the result it had last; empty when it never ran.</param>
/// <param name="Added">When, counted within the Ledger.</param>
public sealed record DraftEntry(int Id, Entry Entry, string Summary, string Key, long Added)
{
    public static DraftEntry New(Entry entry, long added) => new(0, entry, string.Empty, string.Empty, added);

    public static DraftEntry Of(EntryRow row) =>
        new(row.Id, row.ToEntry(), row.Summary, row.Key, row.Added) { Earlier = EarlierEntries.Read(row.Earlier) };

    /// <summary>What it said before it was changed, the latest last; empty for one that was only added.</summary>
    public EarlierEntries Earlier { get; init; } = EarlierEntries.None;

    /// <summary>The entry that takes this one's place, and remembers it.</summary>
    public DraftEntry ChangedTo(Entry entry, long added) =>
        this with
        {
            Entry = entry,
            Added = added,
            Earlier = Earlier.With(Entry, Added),
        };
}

/// <summary>A node as it is edited.</summary>
public sealed record DraftNode(int Id, NodeKind Kind, NodeScope Scope, string Source, IReadOnlyList<DraftEntry> Entries);

/// <summary>A whole Ledger as it is edited: changing it gives another one.</summary>
/// <param name="Revision">Of the Ledger it was read from.</param>
/// <param name="TakenBack">What can be brought again, the latest first.</param>
public sealed record LedgerDraft(LedgerOwner Owner, int Revision, IReadOnlyList<DraftNode> Nodes, IReadOnlyList<TakenBackEntry> TakenBack)
{
    public DraftNode? Find(int node) => Nodes.FirstOrDefault(n => n.Id == node);

    public (DraftNode Node, int Index)? FindEntry(int id)
    {
        foreach (var node in Nodes)
        {
            for (var i = 0; i < node.Entries.Count; i++)
            {
                if (node.Entries[i].Id == id)
                {
                    return (node, i);
                }
            }
        }

        return null;
    }

    /// <summary>The count the next entry gets.</summary>
    public long NextAdded => Nodes.SelectMany(n => n.Entries).Select(e => e.Added).DefaultIfEmpty(0).Max() + 1;

    public LedgerDraft With(DraftNode node, IReadOnlyList<DraftEntry> entries) =>
        this with
        {
            Nodes = [.. Nodes.Select(n => n.Id == node.Id ? n with { Entries = entries } : n)],
        };
}

/// <summary>An entry that was taken back: where it stood.</summary>
/// <param name="Replaces">It was changed back, not away: brought again it takes the place of what stands there.</param>
public sealed record TakenBackEntry(int Node, int Position, Entry Entry, bool Replaces = false);
