using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Tests;

/// <summary>Changes are tried, then kept, once, on the state they were tried on.</summary>
public sealed class ChangeTests : Studio
{
    private static AddEntries Hide(int from, int to = 200) =>
        new(
            "hide",
            new JsonObject
            {
                ["marker"] = "A",
                ["from"] = from,
                ["to"] = to,
            }
        );

    private async Task<LedgerOwner> Owner() => LedgerOwner.Take((await Take()).Id);

    private List<EntryRow> Entries(LedgerOwner owner)
    {
        using var db = CreateDbContext();
        return [.. db.Nodes.Where(n => n.TakeId == owner.TakeId).SelectMany(n => n.Entries).OrderBy(e => e.NodeId).ThenBy(e => e.Position)];
    }

    private int Job(LedgerOwner owner, JobState state = JobState.Waiting)
    {
        using var db = CreateDbContext();
        var job = new JobRow
        {
            Title = "t",
            Kind = "change",
            TakeId = owner.TakeId,
            State = state,
        };
        db.Jobs.Add(job);
        db.SaveChanges();
        return job.Id;
    }

    [Fact]
    public async Task Fifty_people_at_once_give_fifty_entries_and_nothing_is_tried_twice()
    {
        const int people = 50;
        var owner = await Owner();
        await Task.WhenAll(
            Enumerable
                .Range(0, people)
                .Select(i => Task.Factory.StartNew(() => Book.Keep(owner, Hide(i), seen: 0), TaskCreationOptions.LongRunning))
        );
        var entries = Entries(owner);
        Assert.Equal(Enumerable.Range(0, people), entries.Select(e => e.Position));
        Assert.Equal(Enumerable.Range(0, people), entries.Select(e => (int)JsonNode.Parse(e.Parameters)!["from"]!).Order());
        Assert.Equal(people, Book.Read(owner).Revision);
        // Each was worked out on the state it was kept on: fifty results, no more.
        Assert.Equal(people, Results.Kept.Count);
    }

    [Fact]
    public async Task The_same_wish_on_the_same_state_is_kept_once_however_often_it_is_sent()
    {
        var owner = await Owner();
        var answers = new KeptChange[6];
        Parallel.For(0, 6, i => answers[i] = Book.Keep(owner, Hide(3), seen: 0));
        Assert.Single(Entries(owner));
        Assert.Single(answers, a => !a.AlreadyKept);
        Assert.Single(answers.Select(a => a.EntryId).Distinct());
        // On what came of it the same wish is a new one.
        Assert.False(Book.Keep(owner, Hide(3), seen: 1).AlreadyKept);
        Assert.Equal(2, Entries(owner).Count);
    }

    [Fact]
    public async Task A_change_that_does_not_work_leaves_everything_as_it_was()
    {
        var owner = await Owner();
        Book.Keep(owner, Hide(3));
        var e = Assert.Throws<RefusedException>(() =>
            Book.Keep(
                owner,
                new AddEntries([new NewEntry("tidy", []), new NewEntry("hide", new JsonObject { ["marker"] = "Nobody" })]),
                job: Job(owner)
            )
        );
        Assert.Contains("Nobody", e.Message, StringComparison.Ordinal);
        Assert.Equal("hide", Assert.Single(Entries(owner)).Operation);
        Assert.Equal(1, Book.Read(owner).Revision);
        Assert.Throws<RefusedException>(() =>
            Book.Keep(owner, new EditEntry(Entries(owner)[0].Id, new JsonObject { ["marker"] = "Nobody" }))
        );
        Assert.Equal("A", (string)JsonNode.Parse(Entries(owner)[0].Parameters)!["marker"]!);
    }

    [Fact]
    public async Task A_job_that_is_started_again_after_a_kill_keeps_nothing_twice()
    {
        var owner = await Owner();
        var job = Job(owner);
        Book.Keep(owner, Hide(3), seen: 0, job: job);
        await using var db = CreateDbContext();
        Assert.Equal(JobState.Done, (await db.Jobs.SingleAsync()).State);
        // Killed after the transaction, before anybody was told: the scheduler starts it once more.
        Assert.True(Book.Keep(owner, Hide(3), seen: 0, job: job).AlreadyKept);
        Assert.Single(Entries(owner));
        // The same without a seen revision: the job itself says that it is done.
        Assert.Throws<RefusedException>(() => Book.Keep(owner, Hide(9), job: job));
        Assert.Single(Entries(owner));
    }

    [Fact]
    public async Task A_job_is_done_in_the_transaction_that_keeps_its_entry()
    {
        var owner = await Owner();
        var job = Job(owner);
        await using var db = CreateDbContext();
        // The entry cannot be written: the job must not be done then.
        await db.Database.ExecuteSqlRawAsync("CREATE TRIGGER no BEFORE INSERT ON Entries BEGIN SELECT RAISE(ABORT, 'no'); END");
        Assert.ThrowsAny<DbUpdateException>(() => Book.Keep(owner, Hide(3), job: job));
        Assert.Equal(JobState.Waiting, (await db.Jobs.AsNoTracking().SingleAsync()).State);
        Assert.Equal(0, Book.Read(owner).Revision);
        await db.Database.ExecuteSqlRawAsync("DROP TRIGGER no");
        Book.Keep(owner, Hide(3), job: job);
        Assert.Equal(JobState.Done, (await db.Jobs.AsNoTracking().SingleAsync()).State);
    }

    [Fact]
    public async Task A_job_whose_take_moved_meanwhile_works_on_what_there_is_then()
    {
        var owner = await Owner();
        var moved = false;
        var progress = new Once(() =>
        {
            moved = true;
            Book.Keep(owner, Hide(3));
        });
        Book.Keep(owner, new AddEntries("fill", new JsonObject { ["method"] = "spline" }), job: Job(owner), progress: progress);
        Assert.True(moved);
        Assert.Equal(["hide", "fill"], Entries(owner).Select(e => e.Operation));
        var look = Book.Look(owner);
        Assert.True(look.State(look.Find(NodeKind.Markers)!).UpToDate);
        Assert.Equal(FromRaw(owner), look.State(look.Find(NodeKind.Markers)!).Content);
    }

    [Fact]
    public async Task Gaps_are_filled_where_nobody_is_measured()
    {
        // The best way may ask the skeleton; where there is none it does without.
        var owner = LedgerOwner.Take((await Take(null, Ines)).Id);
        Book.Keep(owner, new AddEntries("fill", new JsonObject { ["longest"] = 20 }), job: Job(owner));
        var look = Book.Look(owner);
        Assert.True(look.State(look.Find(NodeKind.Markers)!).UpToDate);
        Assert.Single(Entries(owner));
    }

    [Fact]
    public async Task What_cannot_be_done_is_said_in_words()
    {
        var owner = await Owner();
        string Told(LedgerOwner of, LedgerChange change) => Assert.Throws<RefusedException>(() => Book.Keep(of, change)).Message;
        Assert.Equal("there is nothing to take back", Told(owner, new TakeBackEntry()));
        Assert.Equal("the take is gone", Told(LedgerOwner.Take(9999), new TakeBackEntry()));
        Assert.Equal("the scene is gone", Told(LedgerOwner.Scene(9999), new TakeBackEntry()));
        Book.Keep(owner, new AddEntries("smooth", []));
        var entry = Assert.Single(Entries(owner)).Id;
        Assert.Equal("Smooth taken out", Book.Keep(owner, new RemoveEntry(entry)).Summary);
        Book.Keep(owner, new AddEntries("smooth", []));
        Book.Keep(owner, new AddEntries("despike", []));
        Assert.Equal("another order", Book.Keep(owner, new MoveEntry(Entries(owner)[1].Id, 0)).Summary);
        Assert.Equal("Spikes out taken back", Book.Keep(owner, new TakeBackEntry()).Summary);
        Assert.Equal("Smooth taken back", Book.Keep(owner, new TakeBackEntry()).Summary);
        // Tried first: what would come of it is seen, and nothing is kept.
        var look = Book.Propose(owner, new AddEntries("smooth", []));
        var node = look.Find(NodeKind.Markers)!;
        Assert.NotEqual(Book.Look(owner).State(Book.Look(owner).Find(NodeKind.Markers)!).Shown, look.State(node).Shown);
        Assert.NotNull(look.Value(node));
        Assert.Empty(Entries(owner));
        // Whoever goes away before it is done has asked for nothing.
        using var gone = new CancellationTokenSource();
        gone.Cancel();
        Assert.ThrowsAny<OperationCanceledException>(() => Book.Keep(owner, new AddEntries("smooth", []), cancel: gone.Token));
        Assert.Empty(Entries(owner));
    }

    [Fact]
    public async Task A_stopped_job_keeps_nothing()
    {
        var owner = await Owner();
        using var stop = new CancellationTokenSource();
        var progress = new Once(stop.Cancel);
        Assert.ThrowsAny<OperationCanceledException>(() =>
            Book.Keep(
                owner,
                new AddEntries("fill", new JsonObject { ["method"] = "spline" }),
                job: Job(owner),
                progress: progress,
                cancel: stop.Token
            )
        );
        Assert.Empty(Entries(owner));
    }

    [Fact]
    public async Task Back_to_the_original_keeps_what_there_was_as_a_version()
    {
        var owner = await Owner();
        Book.Keep(owner, Hide(3));
        Book.Keep(owner, Hide(9));
        Book.Keep(owner, new BackToOriginal());
        Assert.Empty(Entries(owner));
        await using var db = CreateDbContext();
        var version = await db.Versions.SingleAsync();
        Assert.Equal("Before going back", version.Name);
        Book.Keep(owner, new RestoreVersion(version.Entries));
        Assert.Equal([3, 9], Entries(owner).Select(e => (int)JsonNode.Parse(e.Parameters)!["from"]!));
        Book.Keep(owner, new BackToOriginal());
        Assert.Equal(["Before going back", "Before going back 2"], await db.Versions.Select(v => v.Name).OrderBy(n => n).ToListAsync());
        // Nothing to keep, nothing kept.
        Book.Keep(owner, new BackToOriginal());
        Assert.Equal(2, await db.Versions.CountAsync());
    }

    [Fact]
    public async Task What_was_added_last_is_taken_back_first_whatever_its_node_and_comes_again()
    {
        var take = await Take(null, Ines, Tobi);
        var owner = LedgerOwner.Take(take.Id);
        await using (var db = CreateDbContext())
        {
            // Two nodes with entries that were added in turn.
            var nodes = await db.Nodes.Where(n => n.TakeId == take.Id).OrderBy(n => n.Kind).ThenBy(n => n.SubjectId).ToListAsync();
            db.Entries.Add(
                new EntryRow
                {
                    NodeId = nodes[1].Id,
                    Operation = "solve",
                    Version = 1,
                    Parameters = "{}",
                    Added = 2,
                }
            );
            db.Entries.Add(
                new EntryRow
                {
                    NodeId = nodes[0].Id,
                    Operation = "tidy",
                    Version = 1,
                    Parameters = "{}",
                    Added = 1,
                }
            );
            db.Entries.Add(
                new EntryRow
                {
                    NodeId = nodes[0].Id,
                    Position = 1,
                    Operation = "despike",
                    Version = 1,
                    Parameters = "{}",
                    Added = 3,
                }
            );
            await db.SaveChangesAsync();
        }

        string Told() => string.Join(' ', Entries(owner).Select(e => e.Operation));
        Assert.Equal("tidy despike solve", Told());
        Book.Keep(owner, new TakeBackEntry());
        Assert.Equal("tidy solve", Told());
        Book.Keep(owner, new TakeBackEntry());
        Assert.Equal("tidy", Told());
        Book.Keep(owner, new BringAgain());
        Assert.Equal("tidy solve", Told());
        Book.Keep(owner, new BringAgain());
        Assert.Equal("tidy despike solve", Told());
        Assert.Throws<RefusedException>(() => Book.Keep(owner, new BringAgain()));
        // What is added new ends what could be brought again.
        Book.Keep(owner, new TakeBackEntry());
        Book.Keep(owner, Hide(3));
        Assert.Throws<RefusedException>(() => Book.Keep(owner, new BringAgain()));
    }

    [Fact]
    public async Task An_entry_that_is_edited_is_taken_back_to_what_it_said()
    {
        var owner = LedgerOwner.Take((await Take(null)).Id);
        Book.Keep(owner, Hide(3));
        Book.Keep(owner, Hide(5));
        var draft = Book.Read(owner);
        static IReadOnlyList<int> From(LedgerDraft d) =>
            [.. d.Nodes.SelectMany(n => n.Entries).Select(e => (int)e.Entry.Parameters["from"]!)];
        EditEntry Edit(int from) => new(Entries(owner)[0].Id, new JsonObject { ["from"] = from });
        var edited = LedgerEdits.Apply(draft, Edit(9)).Draft;
        Assert.Equal([9, 5], From(edited));
        // The edit was last: it goes first, and only then what was added after the entry.
        var back = LedgerEdits.Apply(edited, new TakeBackEntry()).Draft;
        Assert.Equal([3, 5], From(back));
        Assert.Equal([3], From(LedgerEdits.Apply(back, new TakeBackEntry()).Draft));
        Assert.Equal([9, 5], From(LedgerEdits.Apply(back, new BringAgain()).Draft));
        // The same said again is no change, and what was taken back can still be brought again; after another one it cannot.
        Assert.Single(LedgerEdits.Apply(back, Edit(3)).Draft.TakenBack);
        Assert.Empty(LedgerEdits.Apply(back, Edit(4)).Draft.TakenBack);
    }

    [Fact]
    public async Task A_set_up_stands_first_and_only_once_and_a_second_one_takes_its_place()
    {
        var take = await Take(null, Ines, Tobi);
        var owner = LedgerOwner.Take(take.Id);
        // Nobody is measured: the solves are kept untried only by the draft's own rules.
        var draft = Book.Read(owner);
        var outcome = LedgerEdits.Apply(draft, new AddEntries("solve", []));
        Assert.Equal(2, outcome.Touched.Count);
        var contacts = new JsonObject { ["point"] = "heel", ["side"] = "L" };
        var node = outcome.Touched[0].Node;
        outcome = LedgerEdits.Apply(outcome.Draft, new AddEntries("contacts", contacts, node, at: 0));
        outcome = LedgerEdits.Apply(outcome.Draft, new AddEntries("solve", new JsonObject { ["again"] = 1 }, node));
        Assert.Equal(["solve", "contacts"], outcome.Draft.Find(node)!.Entries.Select(e => e.Entry.Operation));
        Assert.Equal(1, (int)outcome.Draft.Find(node)!.Entries[0].Entry.Parameters["again"]!);
        var e = Assert.Throws<RefusedException>(() => LedgerEdits.Apply(draft, new AddEntries("retarget", [])));
        Assert.Contains("who plays whom", e.Message, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_version_that_was_named_is_read_as_it_was_written_and_nonsense_is_refused()
    {
        var owner = await Owner();
        Book.Keep(owner, Hide(3));
        var text = LedgerSnapshot.Write(Book.Read(owner));
        Assert.Equal(text, LedgerSnapshot.Write(LedgerSnapshot.Read(text)));
        foreach (
            var bad in new[]
            {
                "",
                "{}",
                "[3]",
                "[{}]",
                """[{ "kind": "Wing", "subject": 0, "target": 0, "source": "markers", "entries": [] }]""",
            }
        )
        {
            Assert.Throws<RefusedException>(() => LedgerSnapshot.Read(bad));
        }
    }

    private sealed class Once(Action act) : IProgress<double>
    {
        private bool _done;

        public void Report(double value)
        {
            if (!_done)
            {
                _done = true;
                act();
            }
        }
    }
}
