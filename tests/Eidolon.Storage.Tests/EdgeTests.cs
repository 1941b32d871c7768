using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Tests;

/// <summary>The edges of the Ledger: raw is written once, looking reads nothing, what leaves is up to date, a key is worked out once.</summary>
public sealed class EdgeTests : Studio
{
    private static readonly AddEntries Fill = new("fill", new JsonObject { ["method"] = "auto", ["longest"] = 60 });

    [Fact]
    public async Task What_was_recorded_and_what_it_was_recorded_with_is_never_written_over()
    {
        await Take();
        await using var db = CreateDbContext();
        db.Calibrations.Add(new CalibrationRow { Cameras = "[]", ProductionId = 1 });
        await db.SaveChangesAsync();
        var ring = await db.Calibrations.SingleAsync();
        ring.Cameras = "[1]";
        Assert.Throws<InvalidOperationException>(() => db.SaveChanges());
        await db.Entry(ring).ReloadAsync();
        (await db.Chunks.FirstAsync()).Data = [1];
        await Assert.ThrowsAsync<InvalidOperationException>(() => db.SaveChangesAsync());
        await using var after = CreateDbContext();
        Assert.Equal("[]", (await after.Calibrations.SingleAsync()).Cameras);
        Assert.True((await after.Chunks.FirstAsync()).Data.Length > 1);
    }

    [Fact]
    public async Task Looking_reads_no_value_also_where_something_is_out_of_date()
    {
        var take = await Take(Markers(2000), Ines);
        var owner = LedgerOwner.Take(take.Id);
        Book.Keep(owner, Fill, job: await Job(take.Id));
        Restart();
        var look = Book.Look(owner);
        Assert.All(look.Rows, r => look.State(r));
        Assert.True(look.State(look.Find(NodeKind.Markers)!).UpToDate);
        Assert.Equal(0, Stored.BytesRead);
        // A set of other markers: what is there is out of date, and is still known to be at hand.
        await using (var db = CreateDbContext())
        {
            await db.MarkerSets.ExecuteUpdateAsync(s => s.SetProperty(m => m.Json, SetJson("A", "B", "C", "D")));
        }

        var key = look.State(look.Find(NodeKind.Markers)!).Shown;
        Restart();
        look = Book.Look(owner);
        var state = look.State(look.Find(NodeKind.Markers)!);
        Assert.True(state.OutOfDate, "the fill does not know its marker set");
        Assert.Equal(key, state.Shown);
        Assert.Equal(0, Stored.BytesRead);
        Assert.NotNull(look.Runner.Value(state.Node.Id));
        Assert.True(Stored.BytesRead > 0);
    }

    [Fact]
    public async Task What_leaves_the_ledger_is_of_now_or_refused()
    {
        var take = await Take(Markers(), Ines);
        var owner = LedgerOwner.Take(take.Id);
        Book.Keep(owner, Fill, job: await Job(take.Id));
        var node = Book.Look(owner).Find(NodeKind.Markers)!.Id;
        var before = Book.Look(owner).Runner.Target(node, run: false);
        Book.Keep(owner, new AddEntries("despike", []));
        var look = Book.Look(owner);
        Assert.True(look.State(look.Find(NodeKind.Markers)!).OutOfDate);
        Assert.NotNull(look.Runner.Value(node));
        Assert.Contains("out of date", Assert.Throws<RefusedException>(() => look.Runner.Target(node, run: false)).Message);
        var now = look.Runner.Target(node, run: true);
        Assert.Equal(now.Content, ContentHash.Of(now.Value));
        Assert.Equal(FromRaw(owner), now.Content);
        Assert.NotEqual(before.Content, UInt128.Zero);
    }

    [Fact]
    public async Task Who_asks_for_what_is_being_worked_out_waits_for_it()
    {
        var (key, running, most, made) = (new UInt128(1, 2), 0, 0, 0);
        ResultNote Work()
        {
            most = Math.Max(most, Interlocked.Increment(ref running));
            Thread.Sleep(30);
            Interlocked.Increment(ref made);
            var note = new ResultNote(7, new EntryReport("done", []), 0.03);
            Stored.Keep(key, note, null, quick: true);
            Interlocked.Decrement(ref running);
            return note;
        }

        await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => Task.Run(() => Stored.Once(key, Work, default))));
        Assert.Equal((1, 1), (most, made));
        // Another key does not wait, and who gives up waiting lets the others go on.
        using var cancelled = new CancellationTokenSource(20);
        var held = new TaskCompletionSource();
        var first = Task.Run(() =>
            Stored.Once(
                9,
                () =>
                {
                    held.Task.Wait();
                    return ResultNote.Refused("later");
                },
                default
            )
        );
        await Task.Delay(20);
        Assert.ThrowsAny<OperationCanceledException>(() => Stored.Once(9, () => ResultNote.Refused("never"), cancelled.Token));
        Assert.Equal("at once", Stored.Once(10, () => ResultNote.Refused("at once"), default).Refusal);
        held.SetResult();
        Assert.Equal("later", (await first).Refusal);
    }

    [Fact]
    public async Task A_refusal_is_known_the_next_time()
    {
        var take = await Take(Markers(), Ines);
        var owner = LedgerOwner.Take(take.Id);
        // No such trajectory: a person asked for something that is not there.
        var refused = Assert.Throws<RefusedException>(() =>
            Book.Keep(owner, new AddEntries("set-label", new JsonObject { ["dot"] = "Nobody", ["name"] = "D" }))
        );
        Assert.Contains("Nobody", refused.Message, StringComparison.Ordinal);
        Assert.Contains(Results.Kept.Keys, k => Stored.Find(k)?.Refusal is not null);
    }

    [Fact]
    public async Task What_is_to_follow_a_change_is_noted_with_it_and_counted_on()
    {
        var take = await Take(Markers(), Ines);
        var owner = LedgerOwner.Take(take.Id);
        Book.Keep(
            owner,
            new AddEntries(
                "hide",
                new JsonObject
                {
                    ["marker"] = "A",
                    ["from"] = 1,
                    ["to"] = 2,
                }
            )
        );
        await using var db = CreateDbContext();
        var first = await db.Outbox.AsNoTracking().SingleAsync();
        Assert.Equal((owner.Key, take.Id, 1), (first.Key, first.TakeId!.Value, first.Stamp));
        Book.Keep(
            owner,
            new AddEntries(
                "hide",
                new JsonObject
                {
                    ["marker"] = "B",
                    ["from"] = 1,
                    ["to"] = 2,
                }
            )
        );
        Assert.Equal(2, (await db.Outbox.AsNoTracking().SingleAsync()).Stamp);
        // A change that is refused leaves nothing to follow.
        Assert.Throws<RefusedException>(() => Book.Keep(owner, new AddEntries("hide", new JsonObject { ["marker"] = "Nobody" })));
        Assert.Equal(2, (await db.Outbox.AsNoTracking().SingleAsync()).Stamp);
    }

    [Fact]
    public async Task Bytes_on_the_disk_are_counted_once_and_kept_up_with()
    {
        var take = await Take(Markers(2000), Ines);
        var owner = LedgerOwner.Take(take.Id);
        Book.Keep(owner, Fill, job: await Job(take.Id));
        var counted = Stored.StoredBytes();
        Assert.True(counted > 10_000);
        Book.Keep(owner, new AddEntries("smooth", new JsonObject { ["cutoff"] = 6 }), job: await Job(take.Id));
        var more = Stored.StoredBytes();
        Assert.True(more > counted);
        Restart();
        Assert.Equal(more, Stored.StoredBytes());
        // Over the limit the oldest go, and the count goes with them.
        Restart(limit: more - 1);
        Book.Keep(owner, new AddEntries("smooth", new JsonObject { ["cutoff"] = 9 }), job: await Job(take.Id));
        var left = Stored.StoredBytes();
        Assert.True(left < more);
        Restart();
        Assert.Equal(left, Stored.StoredBytes());
    }
}
