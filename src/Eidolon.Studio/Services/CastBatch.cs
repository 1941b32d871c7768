using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Operations;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>One cast for a whole day: the same performer plays the same character, set up alike, in every take where they are solved.</summary>
public sealed class CastBatch(
    IDbContextFactory<EidolonDb> factory,
    TakeService takes,
    CastService casts,
    LedgerService ledger,
    LedgerBook book
)
{
    /// <summary>Other kept takes of a take's day in which a performer is solved, by name.</summary>
    public async Task<IReadOnlyList<Take>> Others(int take, int performer, CancellationToken cancel)
    {
        await using var db = factory.CreateDbContext();
        var day = await db.Takes.Where(t => t.Id == take).Select(t => t.ShootDayId).FirstOrDefaultAsync(cancel);
        return await db
            .Takes.AsNoTracking()
            .Where(t => t.ShootDayId == day && t.Id != take && t.State == TakeState.Kept)
            .Where(t =>
                db.Nodes.Any(n => n.TakeId == t.Id && n.Kind == NodeKind.Solve && n.SubjectId == performer && n.Entries.Any(e => e.On))
            )
            .OrderBy(t => t.Name)
            .ToListAsync(cancel);
    }

    /// <summary>Gives a cast and its set-up to the other takes; each is retargeted as a job of its own.</summary>
    /// <returns>How many takes wait now; those that have it already, set up alike, are left alone.</returns>
    /// <exception cref="RefusedException">There is no such cast, or it was not retargeted yet.</exception>
    public async Task<int> Give(int take, int node, CancellationToken cancel)
    {
        var cast = takes.Open(take).Casts.FirstOrDefault(c => c.Node.Id == node) ?? throw new RefusedException("that cast is gone");
        var set = cast.State.Node.Entries.LastOrDefault(e => e.Operation == RetargetOperation.Retarget.Name)?.Parameters
            ?? throw new RefusedException("retarget this take first: its set-up is what the others get");
        var given = 0;
        foreach (var other in await Others(take, cast.Subject.Id, cancel))
        {
            given += await Give(other, cast, set, cancel) ? 1 : 0;
        }

        return given;
    }

    private async Task<bool> Give(Take other, OpenTake.Role cast, JsonObject set, CancellationToken cancel)
    {
        var row = await casts.Play(other.Id, cast.Subject.Id, cast.Node.TargetId, cancel);
        var open = takes.Open(other.Id);
        var own = open.Casts.First(c => c.Node.Id == row.Id);
        var entry = own.State.Node.Entries.LastOrDefault(e => e.Operation == RetargetOperation.Retarget.Name);
        // Keys are frames of one take: another has its own, from where its props are held, or none.
        var keys = entry?.Parameters["keys"] ?? CastProposal.For(open, cast.Subject.Id)["keys"];
        var wanted = (JsonObject)set.DeepClone();
        wanted["keys"] = keys?.DeepClone() ?? new JsonObject();
        if (entry is null)
        {
            await ledger.Add(LedgerOwner.Take(other.Id), other.Name, RetargetOperation.Retarget.Name, wanted, row.Id, null, cancel);
            return true;
        }

        if (JsonNode.DeepEquals(entry.Parameters, wanted))
        {
            return false;
        }

        var owner = LedgerOwner.Take(other.Id);
        var kept = book.Read(owner).Nodes.First(n => n.Id == row.Id).Entries.Last(e => e.Entry.Operation == entry.Operation);
        await ledger.Edit(owner, other.Name, kept.Id, wanted, null, cancel);
        return true;
    }
}
