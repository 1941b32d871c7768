using System.Text.Json.Nodes;
using CsCheck;
using Eidolon.Core;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Tests;

/// <summary>Whatever is done to a Ledger, in whatever order: what it gives is what its entries give from the raw samples on.</summary>
public sealed class LedgerWalkTests : Studio
{
    private static readonly Gen<LedgerWalk> Walks = Gen.Select(Gen.Int[0, 9], Gen.Int[0, 99], Gen.Int[0, 99], (k, a, b) =>
            new LedgerWalk.Step(k, a, b)
        )
        .List[4, 14]
        .Select(s => new LedgerWalk(s));

    [Fact]
    public void Any_sequence_of_changes_gives_the_same_as_running_from_raw()
    {
        Walks.Sample(
            walk =>
            {
                var take = Take(null, Ines).GetAwaiter().GetResult();
                var owner = LedgerOwner.Take(take.Id);
                foreach (var step in walk.Steps)
                {
                    LedgerWalk.Do(this, owner, step);
                }

                Book.BringUp(owner);
                var look = Book.Look(owner);
                var state = look.State(look.Find(NodeKind.Markers)!);
                Assert.Equal(FromRaw(owner), state.Shown);
                Assert.DoesNotContain(state.Entries, e => e.Standing == EntryStanding.OutOfDate);
                Assert.Equal(ContentHash.Of(look.Runner.Value(state.Node.Id)!), state.Shown);
            },
            iter: 25,
            threads: 1
        );
    }

    [Fact]
    public void Nothing_runs_twice()
    {
        Walks.Sample(
            walk =>
            {
                var take = Take(null, Ines).GetAwaiter().GetResult();
                var owner = LedgerOwner.Take(take.Id);
                foreach (var step in walk.Steps)
                {
                    LedgerWalk.Do(this, owner, step);
                    Book.Look(owner).OutOfDate.ToList();
                    Book.BringUp(owner);
                }

                Assert.DoesNotContain(Results.Kept, k => k.Value > 1);
            },
            iter: 10,
            threads: 1
        );
    }

    [Fact]
    public async Task A_resource_that_changes_leaves_no_old_result_and_one_that_changes_back_runs_nothing()
    {
        var take = await Take(null, Ines);
        var owner = LedgerOwner.Take(take.Id);
        Book.Keep(owner, new AddEntries("fill", new JsonObject { ["method"] = "rigid", ["longest"] = 20 }), job: await Job(take.Id));
        var before = State(owner);
        Assert.True(before.UpToDate);
        var old = Set;
        await using var db = CreateDbContext();
        await db.MarkerSets.Where(s => s.Id == old).ExecuteUpdateAsync(s => s.SetProperty(x => x.Json, SetJson("A", "B", "C")));
        var stale = State(owner);
        Assert.False(stale.UpToDate);
        Assert.Equal(EntryStanding.OutOfDate, stale.Entries[0].Standing);
        // What is shown meanwhile is what there was, and it says so.
        Assert.Equal(before.Content, stale.Shown);
        Book.BringUp(owner);
        Assert.Equal(FromRaw(owner), State(owner).Content);
        var runs = Results.Kept.Count;
        await db.MarkerSets.Where(s => s.Id == old).ExecuteUpdateAsync(s => s.SetProperty(x => x.Json, SetJson("A", "B", "C", "D", "E")));
        Assert.True(State(owner).UpToDate);
        Assert.Equal(before.Content, State(owner).Content);
        Assert.Equal(runs, Results.Kept.Count);
    }

    [Fact]
    public async Task A_result_that_comes_out_the_same_stops_the_wave()
    {
        var take = await Take();
        var owner = LedgerOwner.Take(take.Id);
        Book.Keep(owner, new AddEntries("despike", []), job: await Job(take.Id));
        Book.Keep(owner, new AddEntries("fill", new JsonObject { ["method"] = "spline" }), job: await Job(take.Id));
        var runs = Results.Kept.Count;
        // There is no marker of that name to take off: the entry changes nothing, so nothing after it is run again.
        Book.Keep(owner, new AddEntries("tidy", new JsonObject { ["longest"] = 0 }, at: 0));
        Assert.True(State(owner).UpToDate);
        Assert.Equal(runs + 1, Results.Kept.Count);
        // Parameters that mean the same are the same.
        Book.Keep(owner, new EditEntry(Entries(owner)[2].Id, new JsonObject { ["method"] = "spline" }));
        Assert.True(State(owner).UpToDate);
        Assert.Equal(runs + 1, Results.Kept.Count);
    }

    [Fact]
    public async Task An_entry_that_cannot_run_says_why_and_what_follows_waits()
    {
        var take = await Take(null, Ines);
        var owner = LedgerOwner.Take(take.Id);
        Book.Keep(owner, new AddEntries("despike", []), job: await Job(take.Id));
        Book.Keep(
            owner,
            new AddEntries(
                "hide",
                new JsonObject
                {
                    ["marker"] = "Dot_002",
                    ["from"] = 3,
                    ["to"] = 9,
                }
            )
        );
        Book.Keep(owner, new AddEntries("fill", new JsonObject { ["method"] = "spline" }), job: await Job(take.Id));
        // The marker that is hidden is gone once its name is another one.
        Book.Keep(owner, new AddEntries("set-label", new JsonObject { ["dot"] = "Dot_002", ["name"] = "E" }, at: 0));
        Book.BringUp(owner);
        var state = State(owner);
        Assert.Equal(
            [EntryStanding.Done, EntryStanding.Done, EntryStanding.Refused, EntryStanding.Waiting],
            state.Entries.Select(e => e.Standing)
        );
        Assert.Contains("no trajectory 'Dot_002'", state.Reason, StringComparison.Ordinal);
        Assert.NotNull(Book.Look(owner).Runner.Value(state.Node.Id));
        var solve = Book.Look(owner).Find(NodeKind.Solve, Ines)!;
        await using var db = CreateDbContext();
        db.Entries.Add(
            new EntryRow
            {
                NodeId = solve.Id,
                Operation = "solve",
                Version = 1,
                Parameters = "{}",
            }
        );
        await db.SaveChangesAsync();
        Assert.Equal(EntryStanding.Waiting, Book.Look(owner).State(solve).Entries[0].Standing);
        // And somebody who is not measured is said, once the markers are there.
        Book.Keep(owner, new TakeBackEntry());
        Book.Keep(owner, new RemoveEntry(Entries(owner)[0].Id));
        Book.BringUp(owner);
        Assert.Contains("Ines is not measured", Book.Look(owner).State(solve).Reason, StringComparison.Ordinal);
    }

    [Fact]
    public async Task An_entry_of_an_older_version_is_never_run_by_new_code_in_silence()
    {
        var take = await Take();
        var owner = LedgerOwner.Take(take.Id);
        Book.Keep(owner, new AddEntries("smooth", new JsonObject { ["cutoff"] = 8 }), job: await Job(take.Id));
        await using var db = CreateDbContext();
        await db.Entries.ExecuteUpdateAsync(s => s.SetProperty(e => e.Version, 1));
        var runs = Results.Kept.Count;
        Book.BringUp(owner);
        var entry = State(owner).Entries[0];
        Assert.Equal(EntryStanding.Refused, entry.Standing);
        Assert.Contains("version 1", entry.Reason, StringComparison.Ordinal);
        Assert.Equal(runs, Results.Kept.Count);
        Book.Keep(owner, new BringUpVersion(Entries(owner)[0].Id), job: await Job(take.Id));
        Assert.True(State(owner).UpToDate);
    }

    [Fact]
    public async Task A_damaged_chunk_is_named_and_the_take_still_opens()
    {
        var take = await Take(Markers(3000));
        var owner = LedgerOwner.Take(take.Id);
        Book.Keep(owner, new AddEntries("despike", []), job: await Job(take.Id));
        await using var db = CreateDbContext();
        await db.Database.ExecuteSqlRawAsync("UPDATE Chunks SET Data = zeroblob(length(Data)) WHERE FirstFrame = 1200");
        Restart("elsewhere");
        Book.BringUp(owner);
        var state = State(owner);
        Assert.Equal(EntryStanding.Waiting, state.Entries[0].Standing);
        Assert.Contains("frames 1200 to 2399", state.Reason, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Changes_and_jobs_leave_a_take_that_can_be_looked_at_after_every_one()
    {
        var take = await Take(Markers(120), Ines, Tobi);
        var owner = LedgerOwner.Take(take.Id);
        var random = new Random(7);
        var refused = 0;
        var steps = LongRun.Or(1000, 200);
        for (var n = 0; n < steps; n++)
        {
            var step = new LedgerWalk.Step(random.Next(10), random.Next(100), random.Next(100));
            refused += LedgerWalk.Do(this, owner, step) ? 0 : 1;
            if (n % 37 == 0)
            {
                Book.BringUp(owner);
            }

            var look = Book.Look(owner);
            foreach (var row in look.Rows)
            {
                var state = look.State(row);
                Assert.Equal(row.Entries.Count, state.Entries.Count);
                Assert.True(
                    state.UpToDate
                        || state.Reason.Length > 0
                        || state.OutOfDate
                        || state.Entries.Any(e => e.Standing == EntryStanding.Waiting)
                );
            }

            var positions = Entries(owner).Select(e => e.Position).ToArray();
            Assert.Equal(Enumerable.Range(0, positions.Length), positions);
        }

        Assert.InRange(refused, 1, steps * 8 / 10);
    }

    private NodeState State(LedgerOwner owner)
    {
        var look = Book.Look(owner);
        return look.State(look.Find(NodeKind.Markers)!);
    }

    private List<EntryRow> Entries(LedgerOwner owner)
    {
        using var db = CreateDbContext();
        return db
            .Nodes.Include(n => n.Entries)
            .Single(n => n.TakeId == owner.TakeId && n.Kind == NodeKind.Markers)
            .Entries.OrderBy(e => e.Position)
            .ToList();
    }
}
