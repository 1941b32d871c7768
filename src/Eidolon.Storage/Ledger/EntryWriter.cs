using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Ledger;

/// <summary>Writes what differs between two drafts of one Ledger. Runs within the caller's transaction.</summary>
internal static class EntryWriter
{
    /// <returns>The row ids of the entries of every node that changed, by (node, index).</returns>
    public static IReadOnlyDictionary<(int Node, int Index), int> Write(EidolonDb db, LedgerDraft before, LedgerDraft after, DateTime now)
    {
        var written = new List<(int Node, int Index, EntryRow Row)>();
        foreach (var node in after.Nodes)
        {
            if (!node.Entries.SequenceEqual(before.Find(node.Id)!.Entries))
            {
                written.AddRange(Node(db, node, now).Select((r, i) => (node.Id, i, r)));
            }
        }

        if (!before.TakenBack.SequenceEqual(after.TakenBack))
        {
            db.TakenBack.Where(t => t.Owner == after.Owner.Key).ExecuteDelete();
            db.TakenBack.AddRange(after.TakenBack.Reverse().Select(t => Row(after.Owner, t)));
        }

        db.SaveChanges();
        return written.ToDictionary(w => (w.Node, w.Index), w => w.Row.Id);
    }

    private static List<EntryRow> Node(EidolonDb db, DraftNode node, DateTime now)
    {
        // Out of the way first: (node, position) is unique at every moment.
        db.Entries.Where(e => e.NodeId == node.Id).ExecuteUpdate(s => s.SetProperty(e => e.Position, e => -1 - e.Position));
        var rows = db.Entries.Where(e => e.NodeId == node.Id).ToDictionary(e => e.Id);
        var kept = node.Entries.Select(e => e.Id).Where(id => id > 0).ToHashSet();
        db.Entries.RemoveRange(rows.Values.Where(r => !kept.Contains(r.Id)));
        var result = new List<EntryRow>();
        foreach (var (entry, i) in node.Entries.Select((e, i) => (e, i)))
        {
            if (!rows.TryGetValue(entry.Id, out var row))
            {
                row = new EntryRow
                {
                    NodeId = node.Id,
                    Operation = entry.Entry.Operation,
                    Parameters = string.Empty,
                    CreatedUtc = now,
                };
                db.Entries.Add(row);
            }

            (row.Position, row.Version, row.On, row.Added) = (i, entry.Entry.Version, entry.Entry.On, entry.Added);
            (row.Parameters, row.Summary, row.Key) = (entry.Entry.Parameters.ToJsonString(), entry.Summary, entry.Key);
            // A solve from another source takes the place of the one there was.
            (row.Operation, row.Earlier) = (entry.Entry.Operation, entry.Earlier.Text);
            result.Add(row);
        }

        db.SaveChanges();
        return result;
    }

    private static TakenBackRow Row(LedgerOwner owner, TakenBackEntry t) =>
        new()
        {
            Owner = owner.Key,
            NodeId = t.Node,
            Position = t.Position,
            Operation = t.Entry.Operation,
            Version = t.Entry.Version,
            Parameters = t.Entry.Parameters.ToJsonString(),
            On = t.Entry.On,
            Replaces = t.Replaces,
        };
}
