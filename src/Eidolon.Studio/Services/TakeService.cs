using Eidolon.Core.Operations;
using Eidolon.Core.Quality;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>A take as the pages need it: its Ledger run, from the cache where it was run before.</summary>
public sealed class TakeService(EidolonDb db, IDbContextFactory<EidolonDb> factory, TakeLedger ledger, ResultCache cache, ResourceMemory memory)
{
    public EidolonDb Db => db;

    public TakeLedger Ledger => ledger;

    public async Task<OpenTake> Open(int id, CancellationToken cancel = default)
    {
        var take = await ledger.Load(id, cancel);
        var resources = new StudioResources(factory, cache, memory, take);
        var (data, results) = await ledger.Run(take, resources, cancel: cancel);
        return new OpenTake(take, resources, data, results);
    }

    /// <summary>The state with an entry on top that is not kept: a proposal.</summary>
    public async Task<OperationResult> Propose(int id, Entry entry, CancellationToken cancel = default)
    {
        var take = await ledger.Load(id, cancel);
        var (_, results) = await ledger.Run(take, new StudioResources(factory, cache, memory, take), [entry], cancel: cancel);
        return results[^1]!;
    }

    /// <summary>Runs an entry on the take's present state and keeps it in the Ledger.</summary>
    public async Task<LedgerRow> Keep(int id, Entry entry, IProgress<double>? progress = null, CancellationToken cancel = default)
    {
        var take = await ledger.Load(id, cancel);
        var resources = new StudioResources(factory, cache, memory, take);
        var (data, results) = await ledger.Run(take, resources, [entry], progress: progress, cancel: cancel);
        var row = await ledger.Add(take, entry, results[^1]!.Summary, cancel);
        await Refresh(take, data, cancel);
        return row;
    }

    public async Task<LedgerRow?> TakeBack(int id, CancellationToken cancel = default)
    {
        var take = await ledger.Load(id, cancel);
        var row = await ledger.TakeBack(take, cancel);
        await Refresh(take, null, cancel);
        return row;
    }

    public async Task Switch(int id, int row, bool on, CancellationToken cancel = default)
    {
        var take = await ledger.Load(id, cancel);
        await ledger.Switch(take, row, on, cancel);
        await Refresh(take, null, cancel);
    }

    /// <summary>Writes down what the Board shows of a take: its open Findings and its postures.</summary>
    private async Task Refresh(Take take, TakeData? data, CancellationToken cancel)
    {
        data ??= (await ledger.Run(take, new StudioResources(factory, cache, memory, take), cancel: cancel)).Data;
        var findings = FindingsOf(data);
        take.MustFix = findings.Count(f => f.Severity == Severity.MustFix);
        take.Look = findings.Count(f => f.Severity == Severity.Look);
        if (data.Performer is { } motion)
        {
            take.Postures = Postures.Svg(motion);
        }

        await ledger.Save(cancel);
    }

    /// <summary>Open findings of the furthest state: markers before the solve, the motion after.</summary>
    public static List<Finding> FindingsOf(TakeData data)
    {
        if (data.Final is { } motion)
        {
            return [.. MotionQuality.Measure(motion).Findings];
        }

        var named = data.Markers!.Names.Where(n => !Core.Markers.MarkerNames.IsUnnamed(n)).ToArray();
        return named.Length == 0 ? [] : [.. MarkerFindings.Find(data.Markers.Only(named)).Where(f => f.Severity != Severity.Note)];
    }
}
