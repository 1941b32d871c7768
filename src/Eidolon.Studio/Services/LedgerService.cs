using System.Text.Json.Nodes;
using Eidolon.Core.Operations;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>Changes of a Ledger beyond adding an entry: other parameters, another order, named versions, back to the original. All of them run as one job and are taken over when it worked.</summary>
public sealed class LedgerService(EidolonDb db, TakeLedger ledger, JobQueue jobs)
{
    /// <summary>The job that runs another Ledger in the place of a take's own.</summary>
    public const string JobKind = "ledger";

    /// <summary>What the original is called in the list of versions when a person goes back to it.</summary>
    private const string BeforeOriginal = "Before going back";

    /// <summary>Other parameters for an entry; what it did not name stays.</summary>
    public async Task<JobRow> Edit(int takeId, int row, JsonObject parameters, CancellationToken cancel)
    {
        var take = await ledger.Load(takeId, cancel);
        var at = Place(take, row);
        var entries = TakeLedger.Entries(take).ToList();
        var merged = entries[at].Parameters.DeepClone().AsObject();
        foreach (var (key, value) in parameters)
        {
            merged[key] = value?.DeepClone();
        }

        entries[at] = OperationRegistry.Find(entries[at].Operation).Entry(merged) with { On = entries[at].On };
        return await Start(take, "Change an entry", entries, cancel);
    }

    /// <exception cref="ArgumentException">It cannot go there; says what is in the way.</exception>
    public async Task<JobRow> Move(int takeId, int row, int to, CancellationToken cancel)
    {
        var take = await ledger.Load(takeId, cancel);
        return await Start(take, "Another order", EntryList.Move(TakeLedger.Entries(take), Place(take, row), to), cancel);
    }

    public async Task<JobRow> Remove(int takeId, int row, CancellationToken cancel)
    {
        var take = await ledger.Load(takeId, cancel);
        var entries = TakeLedger.Entries(take).ToList();
        entries.RemoveAt(Place(take, row));
        return await Start(take, "Take an entry out", entries, cancel);
    }

    /// <summary>Keeps the Ledger as it is under a name.</summary>
    /// <exception cref="ArgumentException">The name is empty, too long or taken.</exception>
    public async Task Name(int takeId, string? name, CancellationToken cancel)
    {
        name = (name ?? string.Empty).Trim();
        if (name.Length is 0 or > 60 || await db.Versions.AnyAsync(v => v.TakeId == takeId && v.Name == name, cancel))
        {
            throw new ArgumentException(
                name.Length is 0 or > 60 ? "a version wants a name of 1 to 60 letters" : $"there is a version '{name}' already"
            );
        }

        await Keep(await ledger.Load(takeId, cancel), name, cancel);
    }

    public async Task<JobRow> Restore(int takeId, int version, CancellationToken cancel)
    {
        var row = await db.Versions.AsNoTracking().FirstOrDefaultAsync(v => v.Id == version && v.TakeId == takeId, cancel)
            ?? throw new ArgumentException("that version is gone");
        return await Start(await ledger.Load(takeId, cancel), $"Version {row.Name}", EntryList.Read(row.Entries), cancel);
    }

    /// <summary>Every entry off the Ledger; what there was stays as a version.</summary>
    public async Task<JobRow> Original(int takeId, CancellationToken cancel)
    {
        var take = await ledger.Load(takeId, cancel);
        if (take.Ledger.Count > 0)
        {
            var taken = await db.Versions.Where(v => v.TakeId == takeId).Select(v => v.Name).ToListAsync(cancel);
            await Keep(
                take,
                Enumerable
                    .Range(1, taken.Count + 1)
                    .Select(n => n == 1 ? BeforeOriginal : $"{BeforeOriginal} {n}")
                    .First(n => !taken.Contains(n)),
                cancel
            );
        }

        return await Start(take, "Back to the original", [], cancel);
    }

    private async Task Keep(Take take, string name, CancellationToken cancel)
    {
        db.Versions.Add(
            new LedgerVersion
            {
                TakeId = take.Id,
                Name = name,
                Entries = EntryList.Write(TakeLedger.Entries(take)),
                CreatedUtc = DateTime.UtcNow,
            }
        );
        await db.SaveChangesAsync(cancel);
    }

    private Task<JobRow> Start(Take take, string title, IReadOnlyList<Entry> entries, CancellationToken cancel) =>
        jobs.StartLedger(take.Id, $"{title}, {take.Name}", entries, cancel);

    private static int Place(Take take, int row) =>
        take.Ledger.OrderBy(l => l.Position).ToList().FindIndex(l => l.Id == row) is >= 0 and var at
            ? at
            : throw new ArgumentException("that entry is gone");
}
