using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Ledger;

/// <summary>Takes a take out of the database with everything that is its own: samples, Ledger, films, notes.</summary>
public static class TakeRemoval
{
    public static async Task Remove(EidolonDb db, int take, CancellationToken cancel = default)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var scenes = await db.Scenes.IgnoreQueryFilters().Where(s => s.TakeId == take).ToListAsync(cancel);
        foreach (var scene in scenes)
        {
            await Trace(db, LedgerOwner.Scene(scene.Id), cancel);
        }

        db.Scenes.RemoveRange(scenes);
        await db.SaveChangesAsync(cancel);
        await Trace(db, LedgerOwner.Take(take), cancel);
        await db.Chunks.Where(c => db.Streams.Any(s => s.Id == c.StreamId && s.TakeId == take)).ExecuteDeleteAsync(cancel);
        await db.Videos.Where(v => v.TakeId == take).ExecuteDeleteAsync(cancel);
        await db.Ignored.Where(v => v.TakeId == take).ExecuteDeleteAsync(cancel);
        await db.FrameNotes.Where(n => n.TakeId == take).ExecuteDeleteAsync(cancel);
        await db.Versions.Where(v => v.TakeId == take).ExecuteDeleteAsync(cancel);
        await db.Jobs.Where(v => v.TakeId == take).ExecuteDeleteAsync(cancel);
        // What was kept of it in the library has nothing to show any more.
        await db.Clips.IgnoreQueryFilters().Where(c => db.Nodes.Any(n => n.Id == c.NodeId && n.TakeId == take)).ExecuteDeleteAsync(cancel);
        // Parts, streams, nodes with their entries and set pieces go with their take.
        await db.Takes.IgnoreQueryFilters().Where(t => t.Id == take).ExecuteDeleteAsync(cancel);
        await transaction.CommitAsync(cancel);
    }

    /// <summary>What was kept of a Ledger's changes.</summary>
    public static async Task Trace(EidolonDb db, LedgerOwner owner, CancellationToken cancel = default)
    {
        await db.TakenBack.Where(t => t.Owner == owner.Key).ExecuteDeleteAsync(cancel);
        await db.Changes.Where(c => c.Owner == owner.Key).ExecuteDeleteAsync(cancel);
    }
}
