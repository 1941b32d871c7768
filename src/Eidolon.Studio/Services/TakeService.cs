using Eidolon.Core.Operations;
using Eidolon.Core.Quality;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>A take as the pages need it: its Ledger run, from the cache where it was run before.</summary>
public sealed class TakeService(
    EidolonDb db,
    IDbContextFactory<EidolonDb> factory,
    TakeLedger ledger,
    ResultCache cache,
    ResourceMemory memory,
    StateNotes notes,
    BoardCounts counts
)
{
    public EidolonDb Db => db;

    public TakeLedger Ledger => ledger;

    public async Task<OpenTake> Open(int id, CancellationToken cancel = default) =>
        await Open(await ledger.Load(id, cancel), null, null, cancel);

    /// <summary>The take as it was after its first entries.</summary>
    public async Task<OpenTake> OpenAt(int id, int entries, CancellationToken cancel = default) =>
        await Open(await ledger.Load(id, cancel), entries, null, cancel);

    /// <summary>The state with an entry on top that is not kept: a proposal.</summary>
    public async Task<OpenTake> Propose(int id, Entry entry, CancellationToken cancel = default) =>
        await Open(await ledger.Load(id, cancel), null, [entry], cancel);

    /// <summary>The data of a state that is still in memory.</summary>
    public TakeData? Remembered(string state) =>
        UInt128.TryParse(state, System.Globalization.NumberStyles.HexNumber, null, out var hash) ? cache.Remembered(hash) : null;

    /// <summary>Runs an entry on the take's present state and keeps it in the Ledger.</summary>
    public async Task<LedgerRow> Keep(int id, Entry entry, IProgress<double>? progress = null, CancellationToken cancel = default)
    {
        var take = await ledger.Load(id, cancel);
        var (_, results, _) = await ledger.Run(take, Resources(take), [entry], progress: progress, cancel: cancel);
        var row = await ledger.Add(take, entry, results[^1]!.Summary, cancel);
        await Refresh(take, cancel);
        return row;
    }

    /// <summary>Runs another Ledger in the place of this one, and takes it over once all of it has worked.</summary>
    /// <returns>What it comes to.</returns>
    public async Task<string> Replace(
        int id,
        IReadOnlyList<Entry> entries,
        IProgress<double>? progress = null,
        CancellationToken cancel = default
    )
    {
        var take = await ledger.Load(id, cancel);
        var (_, results, _) = await ledger.RunAll(take, Resources(take), entries, progress, cancel);
        await ledger.Replace(take, [.. entries.Select((e, i) => (e, results[i]?.Summary ?? string.Empty))], cancel);
        await Refresh(take, cancel);
        return $"{entries.Count(e => e.On)} {(entries.Count(e => e.On) == 1 ? "entry" : "entries")} run again";
    }

    public async Task<LedgerRow?> TakeBack(int id, CancellationToken cancel = default)
    {
        var take = await ledger.Load(id, cancel);
        var row = await ledger.TakeBack(take, cancel);
        await Refresh(take, cancel);
        return row;
    }

    public async Task Switch(int id, int row, bool on, CancellationToken cancel = default)
    {
        var take = await ledger.Load(id, cancel);
        await ledger.Switch(take, row, on, cancel);
        await Refresh(take, cancel);
    }

    /// <summary>Writes down what the Board shows of a take: at once where that is quick, else soon after.</summary>
    private async Task Refresh(Take take, CancellationToken cancel)
    {
        var open = await Open(take, null, null, cancel);
        if (notes.Ready(open.Hash, open.Data, open.Resources.MarkerSet()) is { } note)
        {
            await Write(open, note, cancel);
            return;
        }

        counts.Later(take.Id);
    }

    /// <summary>What a person has decided about Findings changes the Board's numbers.</summary>
    public async Task Recount(int id, CancellationToken cancel = default) => await Refresh(await ledger.Load(id, cancel), cancel);

    /// <summary>Findings without those a person lets be: of the same kind and subject, with frames in common.</summary>
    public static IReadOnlyList<Finding> Regarded(IReadOnlyList<Finding> findings, IReadOnlyList<IgnoredFinding> ignored) =>
        ignored.Count == 0
            ? findings
            :
            [
                .. findings.Where(f =>
                    !ignored.Any(i => i.Kind == f.Kind && i.Subject == f.Subject && i.Start <= f.End && f.Start <= i.End)
                ),
            ];

    /// <summary>Counts a long take's Findings for the Board.</summary>
    public async Task Count(int id, CancellationToken cancel)
    {
        var open = await Open(id, cancel);
        await Write(open, notes.Of(open.Hash, open.Data, open.Resources.MarkerSet()), cancel);
    }

    private async Task Write(OpenTake open, StateNote note, CancellationToken cancel)
    {
        var ignored = await db.Ignored.AsNoTracking().Where(i => i.TakeId == open.Take.Id).ToListAsync(cancel);
        var findings = Regarded(note.Findings(open.Data.Final is null ? "label" : "later"), ignored);
        TakeQuality.Write(open.Take, note);
        open.Take.MustFix = findings.Count(f => f.Severity == Severity.MustFix);
        open.Take.Look = findings.Count(f => f.Severity == Severity.Look);
        if (open.Data.Performer is { } motion)
        {
            open.Take.Postures = Postures.Svg(motion);
        }

        await ledger.Save(cancel);
    }

    private StudioResources Resources(Take take) => new(factory, cache, memory, take);

    private async Task<OpenTake> Open(Take take, int? upTo, IReadOnlyList<Entry>? extra, CancellationToken cancel)
    {
        var resources = Resources(take);
        var (data, results, hash) = await ledger.Run(take, resources, extra, upTo, cancel: cancel);
        return new OpenTake(take, resources, data, results, hash);
    }
}
