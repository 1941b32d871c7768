using Eidolon.Core;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>
/// What follows a change: the Board's numbers, what stands on it in the same take brought up where that is quick, and what stands on it
/// elsewhere said to be out of date.
/// </summary>
public sealed class FollowUps(IDbContextFactory<EidolonDb> factory, LedgerBook book, TakeService takes, JobQueue jobs, BoardCounts counts)
{
    /// <summary>What takes longer than this waits for the person to ask for it, seconds.</summary>
    private const double Longest = 20;

    /// <summary>At the start: what was to follow changes that a stop came after.</summary>
    public async Task CatchUp(CancellationToken cancel)
    {
        foreach (var row in await Left(cancel))
        {
            if (row.SubjectId is { } subject)
            {
                LibraryChanged(subject);
                continue;
            }

            try
            {
                await After(new LedgerOwner(row.TakeId, row.SceneId), cancel, again: false);
            }
            catch (RefusedException)
            {
                // The take or scene is gone: nothing is to follow.
                Followed(row);
            }
        }
    }

    /// <param name="again">Queue what is out of date; false after it was brought up as far as it goes.</param>
    public async Task After(LedgerOwner owner, CancellationToken cancel = default, bool again = true)
    {
        var note = Noted(owner.Key);
        await Follow(owner, again, cancel);
        Followed(note);
    }

    private async Task Follow(LedgerOwner owner, bool again, CancellationToken cancel)
    {
        if (owner.TakeId is { } take)
        {
            takes.Refresh(take);
        }

        var look = book.Look(owner);
        if (again && look.OutOfDate.Any() && look.SecondsToRun <= Longest)
        {
            await jobs.BringUp(owner, NameOf(owner), cancel);
        }
    }

    /// <summary>A performer, character or prop has a new version: every take and scene that uses it is looked at again.</summary>
    public void LibraryChanged(int subject)
    {
        var note = Noted($"subject {subject}");
        using var db = factory.CreateDbContext();
        var takes = db.Nodes.Where(n => n.TakeId != null && (n.SubjectId == subject || n.TargetId == subject)).Select(n => n.TakeId!.Value);
        foreach (var take in takes.Union(db.Parts.Where(p => p.SubjectId == subject).Select(p => p.TakeId)).ToList())
        {
            counts.Soon(take);
        }

        Followed(note);
    }

    /// <summary>A marker set has changed: every take that wears it is looked at again.</summary>
    public void MarkerSetChanged(int set)
    {
        using var db = factory.CreateDbContext();
        var production = db.Productions.Where(p => p.MarkerSetId == set).Select(p => p.Id);
        foreach (
            var take in db
                .Takes.Where(t => t.MarkerSetId == set || (t.MarkerSetId == null && production.Contains(t.ProductionId)))
                .Select(t => t.Id)
                .ToList()
        )
        {
            counts.Soon(take);
        }
    }

    private async Task<List<OutboxRow>> Left(CancellationToken cancel)
    {
        await using var db = factory.CreateDbContext();
        return await db.Outbox.AsNoTracking().ToListAsync(cancel);
    }

    private OutboxRow? Noted(string key)
    {
        using var db = factory.CreateDbContext();
        return db.Outbox.AsNoTracking().FirstOrDefault(o => o.Key == key);
    }

    /// <summary>What has followed one change is not forgotten for the next, which may have come meanwhile.</summary>
    private void Followed(OutboxRow? note)
    {
        if (note is not null)
        {
            using var db = factory.CreateDbContext();
            db.Outbox.Where(o => o.Key == note.Key && o.Stamp == note.Stamp).ExecuteDelete();
        }
    }

    private string NameOf(LedgerOwner owner)
    {
        using var db = factory.CreateDbContext();
        return owner.TakeId is { } take
            ? db.Takes.Where(t => t.Id == take).Select(t => t.Name).FirstOrDefault() ?? "the take"
            : db.Scenes.Where(s => s.Id == owner.SceneId).Select(s => s.Name).FirstOrDefault() ?? "the scene";
    }
}
