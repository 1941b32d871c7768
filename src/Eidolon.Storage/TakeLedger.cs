using System.Text.Json.Nodes;
using Eidolon.Core.Operations;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage;

/// <summary>The Ledger of a take: add, take back, switch, run.</summary>
public sealed class TakeLedger(EidolonDb db, SampleStore samples, ResultCache cache)
{
    /// <summary>A take with its Ledger in order.</summary>
    public async Task<Take> Load(int takeId, CancellationToken cancel = default)
    {
        var take = await db
            .Takes.Include(t => t.Ledger.OrderBy(l => l.Position))
            .Include(t => t.Day)
            .FirstOrDefaultAsync(t => t.Id == takeId, cancel);
        return take ?? throw new KeyNotFoundException($"there is no take {takeId}");
    }

    public static IReadOnlyList<Entry> Entries(Take take) =>
        [
            .. take
                .Ledger.OrderBy(l => l.Position)
                .Select(l => new Entry(l.Operation, l.Version, JsonNode.Parse(l.Parameters) as JsonObject ?? [], l.On)),
        ];

    /// <summary>The data after the Ledger's first entries (all when not given) and <paramref name="extra"/> entries on top, for proposals, with what each said.</summary>
    public Task<LedgerRun> Run(
        Take take,
        IResources resources,
        IReadOnlyList<Entry>? extra = null,
        int? upTo = null,
        IProgress<double>? progress = null,
        CancellationToken cancel = default
    )
    {
        var entries = Entries(take);
        return RunAll(take, resources, [.. upTo is { } n ? entries.Take(n) : entries, .. extra ?? []], progress, cancel);
    }

    /// <summary>Runs any entries over the take's raw samples.</summary>
    public async Task<LedgerRun> RunAll(
        Take take,
        IResources resources,
        IReadOnlyList<Entry> entries,
        IProgress<double>? progress = null,
        CancellationToken cancel = default
    )
    {
        var seed = Seed(take, resources);
        TakeData? raw = null;
        if (
            entries.Count == 0
            || !Ledger.Hashes(seed, entries).Where((_, i) => entries[i].On).Reverse().Any(h => cache.Find(h) is not null)
        )
        {
            raw = await Raw(take, seed, cancel);
        }

        // What was found may be forgotten again in between, under the pressure of other takes: then the raw samples are read after all.
        var (data, results, hash) = Ledger.Run(
            () => raw ?? samples.ReadRaw(take, cancel).GetAwaiter().GetResult(),
            seed,
            entries,
            new OperationContext(resources, progress, cancel),
            cache
        );
        return new LedgerRun(data, results, hash);
    }

    private async Task<TakeData> Raw(Take take, UInt128 seed, CancellationToken cancel)
    {
        if (cache.Remembered(seed) is { } known)
        {
            return known;
        }

        var raw = await samples.ReadRaw(take, cancel);
        cache.Remember(seed, raw);
        return raw;
    }

    /// <summary>Replaces the whole Ledger at once.</summary>
    public async Task Replace(Take take, IReadOnlyList<(Entry Entry, string Summary)> entries, CancellationToken cancel = default)
    {
        db.Ledger.RemoveRange(take.Ledger);
        take.Ledger.Clear();
        take.Ledger.AddRange(entries.Select((e, i) => Row(take, e.Entry, e.Summary, i)));
        await db.SaveChangesAsync(cancel);
    }

    private static LedgerRow Row(Take take, Entry entry, string summary, int position) =>
        new()
        {
            TakeId = take.Id,
            Position = position,
            Operation = entry.Operation,
            Version = entry.Version,
            Parameters = entry.Parameters.ToJsonString(),
            On = entry.On,
            Summary = summary,
            CreatedUtc = DateTime.UtcNow,
        };

    /// <summary>Adds an entry and keeps what it said.</summary>
    public async Task<LedgerRow> Add(Take take, Entry entry, string summary, CancellationToken cancel = default)
    {
        var row = Row(take, entry, summary, take.Ledger.Count == 0 ? 0 : take.Ledger.Max(l => l.Position) + 1);
        db.Ledger.Add(row);
        await db.SaveChangesAsync(cancel);
        return row;
    }

    /// <summary>Takes back the last entry; null when the Ledger is empty.</summary>
    public async Task<LedgerRow?> TakeBack(Take take, CancellationToken cancel = default)
    {
        var last = take.Ledger.OrderBy(l => l.Position).LastOrDefault();
        if (last is not null)
        {
            db.Ledger.Remove(last);
            take.Ledger.Remove(last);
            await db.SaveChangesAsync(cancel);
        }

        return last;
    }

    public async Task Switch(Take take, int rowId, bool on, CancellationToken cancel = default)
    {
        var row = take.Ledger.FirstOrDefault(l => l.Id == rowId) ?? throw new KeyNotFoundException($"there is no entry {rowId}");
        row.On = on;
        await db.SaveChangesAsync(cancel);
    }

    public Task Save(CancellationToken cancel = default) => db.SaveChangesAsync(cancel);

    /// <summary>The raw samples and everything outside the Ledger that results depend on.</summary>
    private static UInt128 Seed(Take take, IResources resources) =>
        System.IO.Hashing.XxHash128.HashToUInt128(
            System.Text.Encoding.UTF8.GetBytes($"{take.RawHash}|{(resources as IVersioned)?.Version}")
        );
}
