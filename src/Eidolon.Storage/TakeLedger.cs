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
        var take = await db.Takes.Include(t => t.Ledger.OrderBy(l => l.Position)).Include(t => t.Day).FirstOrDefaultAsync(t => t.Id == takeId, cancel);
        return take ?? throw new KeyNotFoundException($"there is no take {takeId}");
    }

    public static IReadOnlyList<Entry> Entries(Take take) =>
        [.. take.Ledger.OrderBy(l => l.Position).Select(l => new Entry(l.Operation, l.Version, JsonNode.Parse(l.Parameters) as JsonObject ?? [], l.On))];

    /// <summary>The data after the Ledger (and <paramref name="extra"/> entries on top, for proposals), with each entry's result.</summary>
    public async Task<(TakeData Data, IReadOnlyList<OperationResult?> Results)> Run(Take take, IResources resources, IReadOnlyList<Entry>? extra = null, int? upTo = null, IProgress<double>? progress = null, CancellationToken cancel = default)
    {
        var raw = await samples.ReadRaw(take, cancel);
        var entries = Entries(take);
        if (upTo is { } n)
        {
            entries = [.. entries.Take(n)];
        }

        return Ledger.Run(raw, Seed(take, resources), [.. entries, .. extra ?? []], new OperationContext(resources, progress, cancel), cache);
    }

    /// <summary>Adds an entry and keeps what it said.</summary>
    public async Task<LedgerRow> Add(Take take, Entry entry, string summary, CancellationToken cancel = default)
    {
        var row = new LedgerRow
        {
            TakeId = take.Id, Position = take.Ledger.Count == 0 ? 0 : take.Ledger.Max(l => l.Position) + 1, Operation = entry.Operation, Version = entry.Version,
            Parameters = entry.Parameters.ToJsonString(), On = entry.On, Summary = summary, CreatedUtc = DateTime.UtcNow,
        };
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
        System.IO.Hashing.XxHash128.HashToUInt128(System.Text.Encoding.UTF8.GetBytes($"{take.RawHash}|{(resources as IVersioned)?.Version}"));
}
