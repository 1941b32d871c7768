using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Operations;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>Changes of a take's or scene's Ledger as the pages ask for them: quick ones at once, all others as jobs.</summary>
public sealed class LedgerService(
    IDbContextFactory<EidolonDb> factory,
    LedgerBook book,
    FollowUps followUps,
    JobQueue jobs,
    TimeProvider time
)
{
    public const int LongestName = 60;

    /// <summary>What came of a wish: done, or a job that will do it.</summary>
    public sealed record Answer(KeptChange? Kept, JobRow? Job);

    /// <summary>Adds an entry: at once where its operation is quick.</summary>
    public async Task<Answer> Add(
        LedgerOwner owner,
        string name,
        string operation,
        JsonObject parameters,
        int? node,
        int? seen,
        CancellationToken cancel
    )
    {
        if (!OperationRegistry.Find(operation).Quick)
        {
            return new Answer(null, await jobs.Operation(owner, name, operation, parameters, node, seen, cancel));
        }

        return new Answer(await AtOnce(owner, new AddEntries(operation, parameters, node), seen, cancel), null);
    }

    /// <summary>Adds several entries in one job: all of them or none.</summary>
    public async Task<Answer> AddAll(
        LedgerOwner owner,
        string title,
        IReadOnlyList<NewEntry> entries,
        int? seen,
        CancellationToken cancel
    ) => new(null, await jobs.Change(owner, title, new AddEntries(entries), seen, cancel: cancel));

    /// <summary>A change that runs nothing itself: switching, taking back, another order. What stands on it follows by a job.</summary>
    public async Task<KeptChange> AtOnce(LedgerOwner owner, LedgerChange change, int? seen, CancellationToken cancel)
    {
        var kept = await Task.Run(() => book.Keep(owner, change, seen), cancel);
        var gathers = change is AddEntries add && add.Entries.All(e => OperationRegistry.Find(e.Operation).Gathers);
        await followUps.After(owner, cancel, again: !gathers);
        return kept;
    }

    /// <summary>Other parameters for an entry; tried before they are kept.</summary>
    public Task<JobRow> Edit(LedgerOwner owner, string name, int entry, JsonObject parameters, int? seen, CancellationToken cancel) =>
        jobs.Change(owner, $"Change an entry, {name}", new EditEntry(entry, parameters), seen, cancel: cancel);

    /// <summary>An entry of an older version asked of the present one.</summary>
    public Task<JobRow> BringUpVersion(LedgerOwner owner, string name, int entry, CancellationToken cancel) =>
        jobs.Change(owner, $"Bring up an entry, {name}", new BringUpVersion(entry), cancel: cancel);

    /// <summary>Keeps a take's Ledger as it is under a name.</summary>
    /// <exception cref="RefusedException">The name is empty, too long or taken.</exception>
    public async Task Name(int takeId, string? name, CancellationToken cancel)
    {
        name = (name ?? string.Empty).Trim();
        await using var db = factory.CreateDbContext();
        if (name.Length is 0 or > LongestName || await db.Versions.AnyAsync(v => v.TakeId == takeId && v.Name == name, cancel))
        {
            throw new RefusedException(
                name.Length is 0 or > LongestName ? "a version wants a name of 1 to 60 letters" : $"there is a version '{name}' already"
            );
        }

        db.Versions.Add(
            new LedgerVersion
            {
                TakeId = takeId,
                Name = name,
                Entries = LedgerSnapshot.Write(book.Read(LedgerOwner.Take(takeId))),
                CreatedUtc = time.GetUtcNow().UtcDateTime,
            }
        );
        await db.SaveChangesAsync(cancel);
    }

    /// <summary>Brings a named version back.</summary>
    public async Task<KeptChange> Restore(int takeId, int version, CancellationToken cancel)
    {
        await using var db = factory.CreateDbContext();
        var row = await db.Versions.AsNoTracking().FirstOrDefaultAsync(v => v.Id == version && v.TakeId == takeId, cancel)
            ?? throw new RefusedException("that version is gone");
        return await AtOnce(LedgerOwner.Take(takeId), new RestoreVersion(row.Entries), null, cancel);
    }
}
