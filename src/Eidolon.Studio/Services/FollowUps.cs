using Eidolon.Storage;
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

    /// <param name="again">Queue what is out of date; false after it was brought up as far as it goes.</param>
    public async Task After(LedgerOwner owner, CancellationToken cancel = default, bool again = true)
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
        using var db = factory.CreateDbContext();
        var takes = db.Nodes.Where(n => n.TakeId != null && (n.SubjectId == subject || n.TargetId == subject)).Select(n => n.TakeId!.Value);
        foreach (var take in takes.Union(db.Parts.Where(p => p.SubjectId == subject).Select(p => p.TakeId)).ToList())
        {
            counts.Soon(take);
        }
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

    private string NameOf(LedgerOwner owner)
    {
        using var db = factory.CreateDbContext();
        return owner.TakeId is { } take
            ? db.Takes.Where(t => t.Id == take).Select(t => t.Name).FirstOrDefault() ?? "the take"
            : db.Scenes.Where(s => s.Id == owner.SceneId).Select(s => s.Name).FirstOrDefault() ?? "the scene";
    }
}
