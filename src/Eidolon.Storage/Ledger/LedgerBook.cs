using Eidolon.Core;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.Storage.Blobs;
using Eidolon.Storage.Model;
using Eidolon.Storage.Results;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Ledger;

/// <summary>
/// The Ledgers of takes and scenes: look, change, bring up to date. A change is tried first and kept only when it works, in one transaction with
/// the job that made it, on the state it was tried on; when that moved meanwhile it is tried again on the new one.
/// </summary>
public sealed class LedgerBook(
    IDbContextFactory<EidolonDb> factory,
    ResourceMemory memory,
    BlobStore blobs,
    IResultStore results,
    TimeProvider time
)
{
    /// <summary>How often a change is tried again because others were quicker. Ten people at once never need as many.</summary>
    private const int MostTries = 40;

    private readonly KeyedGate _quick = new();

    /// <summary>A look at a Ledger: its nodes in order, and how they stand.</summary>
    public LedgerLook Look(LedgerOwner owner)
    {
        var nodes = new StoredNodes(factory, memory, blobs);
        var rows = nodes.Load(owner);
        return new LedgerLook(owner, rows, new LedgerRunner(nodes, results), nodes);
    }

    /// <summary>A value that is still at hand, by its name; null when it is not.</summary>
    public NodeValue? Known(string content) => ContentHash.TryParse(content, out var hash) ? results.Value(hash) : null;

    /// <summary>The same with a change that is not kept: a proposal.</summary>
    /// <param name="run">Runs what the change needs; without it what takes long and is not at hand is out of date.</param>
    /// <exception cref="RefusedException">The change does not work; says why.</exception>
    public LedgerLook Propose(LedgerOwner owner, LedgerChange change, bool run = true, CancellationToken cancel = default)
    {
        var outcome = LedgerEdits.Apply(Read(owner), change);
        var nodes = new StoredNodes(factory, memory, blobs, outcome.Draft);
        var runner = new LedgerRunner(nodes, results);
        if (run)
        {
            Try(outcome, runner, run: true, null, cancel);
        }

        return new LedgerLook(owner, nodes.Load(owner), runner, nodes);
    }

    /// <summary>The Ledger as it can be edited.</summary>
    /// <exception cref="RefusedException">The take or scene is gone.</exception>
    public LedgerDraft Read(LedgerOwner owner)
    {
        using var db = factory.CreateDbContext();
        return Read(db, owner);
    }

    /// <summary>Does what a person asked.</summary>
    /// <param name="seen">The revision they saw; the same wish on the same revision is kept once. Null where it does not matter.</param>
    /// <param name="job">The job that does it; it is done in the same transaction. Without one nothing that takes long is run.</param>
    /// <exception cref="RefusedException">It cannot be done; nothing was changed.</exception>
    public KeptChange Keep(
        LedgerOwner owner,
        LedgerChange change,
        int? seen = null,
        int? job = null,
        IProgress<double>? progress = null,
        CancellationToken cancel = default
    )
    {
        var intent = ContentHash.Text(ContentHash.Of(change.ToJson()));
        // Quick changes of one Ledger go one after the other: tried side by side, all but one would be tried again. A job takes its time and is not
        // waited for.
        using var turn = job is null ? _quick.Enter(ContentHash.Of(owner.Key), cancel) : null;
        for (var t = 0; t < MostTries; t++)
        {
            cancel.ThrowIfCancellationRequested();
            if (seen is { } s && Known(owner, s, intent) is { } twice)
            {
                FinishJob(job, twice.Summary);
                return twice;
            }

            var draft = Read(owner);
            var outcome = LedgerEdits.Apply(draft, change);
            var nodes = new StoredNodes(factory, memory, blobs, outcome.Draft);
            var runner = new LedgerRunner(nodes, results);
            Try(outcome, runner, job is not null, progress, cancel);
            var ready = Marked(outcome.Draft, runner);
            var summary = SummaryOf(ready, outcome);
            cancel.ThrowIfCancellationRequested();
            if (Write(draft, ready, change, seen ?? draft.Revision, intent, summary, outcome, job) is { } kept)
            {
                return kept;
            }
        }

        throw new RefusedException("others change this Ledger all the time: try again in a moment");
    }

    /// <summary>Runs whatever is out of date, and writes down what came of it. Entries stay as they are.</summary>
    /// <returns>What to tell the person.</returns>
    public string BringUp(LedgerOwner owner, int? job = null, IProgress<double>? progress = null, CancellationToken cancel = default)
    {
        for (var t = 0; t < MostTries; t++)
        {
            var draft = Read(owner);
            var runner = new LedgerRunner(new StoredNodes(factory, memory, blobs), results);
            var states = runner.Run([.. draft.Nodes.Where(n => n.Entries.Count > 0).Select(n => n.Id)], progress, cancel);
            var trouble = states.FirstOrDefault(s => s.Refused);
            var words = trouble is null ? "Up to date" : $"As far as it goes: {trouble.Reason}";
            if (WriteKeys(draft, Marked(draft, runner), words, job))
            {
                return words;
            }
        }

        throw new RefusedException("others change this Ledger all the time: try again in a moment");
    }

    private static void Try(
        LedgerEdits.Outcome outcome,
        LedgerRunner runner,
        bool run,
        IProgress<double>? progress,
        CancellationToken cancel
    )
    {
        int[] touched = [.. outcome.Touched.Select(t => t.Node).Distinct()];
        var states = run ? runner.Run(touched, progress, cancel) : [.. touched.Select(runner.Look)];
        foreach (var (node, index) in outcome.Touched)
        {
            var entry = states[Array.IndexOf(touched, node)].Entries[index];
            if (entry.Standing is EntryStanding.Refused or EntryStanding.Waiting)
            {
                throw new RefusedException(entry.Reason);
            }
        }
    }

    /// <summary>The draft with the keys and summaries of every entry that stands now.</summary>
    private static LedgerDraft Marked(LedgerDraft draft, LedgerRunner runner) =>
        draft with
        {
            Nodes =
            [
                .. draft.Nodes.Select(n =>
                {
                    var state = runner.Look(n.Id);
                    return n with
                    {
                        Entries =
                        [
                            .. n.Entries.Select(
                                (e, i) =>
                                    state.Entries[i] is { Standing: EntryStanding.Done, Key: { } key } done
                                        ? e with
                                        {
                                            Key = ContentHash.Text(key),
                                            Summary = done.Report?.Summary ?? e.Summary,
                                        }
                                        : e
                            ),
                        ],
                    };
                }),
            ],
        };

    private static string SummaryOf(LedgerDraft ready, LedgerEdits.Outcome outcome)
    {
        var said = outcome.Touched.Select(t => ready.Find(t.Node)!.Entries[t.Index].Summary).Where(s => s.Length > 0).Distinct().ToArray();
        return said.Length > 0 ? string.Join("; ", said) : outcome.Words;
    }

    private KeptChange? Known(LedgerOwner owner, int seen, string intent)
    {
        using var db = factory.CreateDbContext();
        var row = db.Changes.AsNoTracking().FirstOrDefault(c => c.Owner == owner.Key && c.Seen == seen && c.Intent == intent);
        return row is null ? null : new KeptChange(row.EntryId, row.Revision, row.Summary, AlreadyKept: true);
    }

    private KeptChange? Write(
        LedgerDraft before,
        LedgerDraft after,
        LedgerChange change,
        int seen,
        string intent,
        string summary,
        LedgerEdits.Outcome outcome,
        int? job
    )
    {
        using var db = factory.CreateDbContext();
        using var all = db.Database.BeginTransaction();
        if (!Advance(db, before) || (job is { } j && !Done(db, j, summary)))
        {
            return null;
        }

        if (change is BackToOriginal && before.Owner.TakeId is { } take && before.Nodes.Any(n => n.Entries.Count > 0))
        {
            db.Versions.Add(KeptVersion(db, take, before));
        }

        var rows = EntryWriter.Write(db, before, after, time.GetUtcNow().UtcDateTime);
        int? entry = outcome.Touched is [.., var (node, at)] ? rows.GetValueOrDefault((node, at), after.Find(node)!.Entries[at].Id) : null;
        db.Changes.Add(
            new ChangeRow
            {
                Owner = before.Owner.Key,
                Seen = seen,
                Intent = intent,
                Revision = before.Revision + 1,
                Summary = summary,
                EntryId = entry,
                JobId = job,
                CreatedUtc = time.GetUtcNow().UtcDateTime,
            }
        );
        db.Changed(before.Owner);
        try
        {
            db.SaveChanges();
        }
        catch (DbUpdateException)
        {
            // The same wish was kept by another hand a moment ago: the next try finds it.
            return null;
        }

        all.Commit();
        return new KeptChange(entry, before.Revision + 1, summary);
    }

    private bool WriteKeys(LedgerDraft before, LedgerDraft after, string words, int? job)
    {
        using var db = factory.CreateDbContext();
        using var all = db.Database.BeginTransaction();
        if (Revision(db, before.Owner) != before.Revision || (job is { } j && !Done(db, j, words)))
        {
            return false;
        }

        foreach (var entry in after.Nodes.SelectMany(n => n.Entries).Where(e => before.FindEntry(e.Id) is var (n, i) && n.Entries[i] != e))
        {
            db.Entries.Where(e => e.Id == entry.Id)
                .ExecuteUpdate(s => s.SetProperty(e => e.Key, entry.Key).SetProperty(e => e.Summary, entry.Summary));
        }

        db.Changed(before.Owner);
        all.Commit();
        return true;
    }

    private LedgerVersion KeptVersion(EidolonDb db, int take, LedgerDraft before)
    {
        const string Name = "Before going back";
        var taken = db.Versions.Where(v => v.TakeId == take).Select(v => v.Name).ToList();
        return new LedgerVersion
        {
            TakeId = take,
            Name = Enumerable.Range(1, taken.Count + 1).Select(n => n == 1 ? Name : $"{Name} {n}").First(n => !taken.Contains(n)),
            Entries = LedgerSnapshot.Write(before),
            CreatedUtc = time.GetUtcNow().UtcDateTime,
        };
    }

    /// <summary>Counts the revision on; false when it moved since the draft was read.</summary>
    private static bool Advance(EidolonDb db, LedgerDraft draft) =>
        draft.Owner.TakeId is { } take
            ? db.Takes.Where(t => t.Id == take && t.Revision == draft.Revision)
                .ExecuteUpdate(s => s.SetProperty(t => t.Revision, draft.Revision + 1)) == 1
            : db.Scenes.Where(t => t.Id == draft.Owner.SceneId && t.Revision == draft.Revision)
                .ExecuteUpdate(s => s.SetProperty(t => t.Revision, draft.Revision + 1)) == 1;

    private void FinishJob(int? job, string words)
    {
        if (job is { } j)
        {
            using var db = factory.CreateDbContext();
            Done(db, j, words);
        }
    }

    private bool Done(EidolonDb db, int job, string words) => db.End(job, words, time.GetUtcNow().UtcDateTime);

    private static int? Revision(EidolonDb db, LedgerOwner owner) =>
        owner.TakeId is { } take
            ? db.Takes.Where(t => t.Id == take).Select(t => (int?)t.Revision).FirstOrDefault()
            : db.Scenes.Where(t => t.Id == owner.SceneId).Select(t => (int?)t.Revision).FirstOrDefault();

    private static LedgerDraft Read(EidolonDb db, LedgerOwner owner)
    {
        // The revision first: what changes while the rest is read makes the change be tried again.
        var revision = Revision(db, owner) ?? throw new RefusedException(owner.TakeId is null ? "the scene is gone" : "the take is gone");
        var nodes = StoredNodes.Of(db.Nodes.AsNoTracking(), owner).Include(n => n.Entries).OrderBy(n => n.Kind).ThenBy(n => n.Id).ToList();
        var back = db.TakenBack.AsNoTracking().Where(t => t.Owner == owner.Key).OrderByDescending(t => t.Id).ToList();
        return new LedgerDraft(
            owner,
            revision,
            [
                .. nodes.Select(n => new DraftNode(
                    n.Id,
                    n.Kind,
                    new NodeScope(n.SubjectId, n.TargetId),
                    n.Source,
                    [.. n.Entries.OrderBy(e => e.Position).Select(DraftEntry.Of)]
                )),
            ],
            [.. back.Select(t => new TakenBackEntry(t.NodeId, t.Position, Parsed(t), t.Replaces))]
        );
    }

    private static Entry Parsed(TakenBackRow t) =>
        new(t.Operation, t.Version, System.Text.Json.Nodes.JsonNode.Parse(t.Parameters) as System.Text.Json.Nodes.JsonObject ?? [], t.On);
}

/// <summary>A change that was kept.</summary>
/// <param name="EntryId">The entry it is about; null where there is none.</param>
/// <param name="AlreadyKept">The same wish on the same state was kept before: nothing was done twice.</param>
public sealed record KeptChange(int? EntryId, int Revision, string Summary, bool AlreadyKept = false);
