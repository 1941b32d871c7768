using Eidolon.Core.Operations;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Ledger;

/// <summary>The nodes a take has by itself: its markers, a solve for each performer, places for each prop. Casts are added when somebody
/// is cast, attached props when hands are to have them.</summary>
public static class TakeNodes
{
    /// <summary>Adds what is missing for the parts of a take; the caller saves.</summary>
    public static async Task Ensure(EidolonDb db, Take take, CancellationToken cancel = default)
    {
        var have = await db.Nodes.Where(n => n.TakeId == take.Id).ToListAsync(cancel);
        void Want(NodeKind kind, int subject)
        {
            if (!have.Exists(n => n.Kind == kind && n.SubjectId == subject))
            {
                db.Nodes.Add(
                    new NodeRow
                    {
                        TakeId = take.Id,
                        Kind = kind,
                        SubjectId = subject,
                    }
                );
            }
        }

        Want(NodeKind.Markers, 0);
        var ids = await db.Parts.Where(p => p.TakeId == take.Id).Select(p => new { p.SubjectId, p.Subject!.Kind }).ToListAsync(cancel);
        foreach (var part in ids)
        {
            Want(part.Kind == SubjectKind.Prop ? NodeKind.Places : NodeKind.Solve, part.SubjectId);
        }

        await db.SaveChangesAsync(cancel);
    }

    /// <summary>The node of a performer's motion on a character; made when it is missing.</summary>
    public static Task<NodeRow> Cast(EidolonDb db, int take, int performer, int character, CancellationToken cancel = default) =>
        Wanted(db, take, NodeKind.Cast, performer, character, cancel);

    /// <summary>The node of a prop as it is attached to characters; made when it is missing.</summary>
    public static Task<NodeRow> Attached(EidolonDb db, int take, int prop, CancellationToken cancel = default) =>
        Wanted(db, take, NodeKind.Attached, prop, 0, cancel);

    private static async Task<NodeRow> Wanted(EidolonDb db, int take, NodeKind kind, int subject, int target, CancellationToken cancel)
    {
        var known = await db.Nodes.FirstOrDefaultAsync(
            n => n.TakeId == take && n.Kind == kind && n.SubjectId == subject && n.TargetId == target,
            cancel
        );
        if (known is not null)
        {
            return known;
        }

        var row = new NodeRow
        {
            TakeId = take,
            Kind = kind,
            SubjectId = subject,
            TargetId = target,
        };
        db.Nodes.Add(row);
        await db.SaveChangesAsync(cancel);
        return row;
    }
}
