using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Storage.Results;
using Eidolon.Storage.Samples;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Tests;

/// <summary>Rules of the Ledger that single tests of its parts do not show: scenes, orders, words, what is told of damage.</summary>
public sealed class LedgerRulesTests : Studio
{
    private static JsonObject Part(string marker, int from) =>
        new()
        {
            ["marker"] = marker,
            ["from"] = from,
            ["to"] = from + 3,
        };

    /// <summary>A take of two who were brought in as motions.</summary>
    private async Task<Take> Moving(params (int Performer, float Height)[] who)
    {
        await using var db = CreateDbContext();
        var take = new Take
        {
            ShootDayId = 1,
            Name = $"HL_{Guid.NewGuid():N}",
            SetUp = "HL",
            Number = 1,
            FrameRate = 30,
            FrameCount = 40,
            State = TakeState.Kept,
        };
        await TakeMaker.Add(db, take, [.. who.Select(w => w.Performer)], []);
        foreach (var (performer, height) in who)
        {
            var s = Anthropometry.Body(height);
            var motion = new Motion(
                s,
                30,
                40,
                [.. Enumerable.Repeat(Quaternion.Identity, 40 * s.Count)],
                [.. Enumerable.Range(0, 40).SelectMany(_ => s.Joints.Select(j => j.Offset))]
            );
            await new SampleStore(db).WriteMotion(take.Id, performer, new MotionValue(motion));
        }

        await TakeNodes.Ensure(db, take);
        return take;
    }

    private async Task<LedgerOwner> SceneOf(Take take)
    {
        await using var db = CreateDbContext();
        return LedgerOwner.Scene((await SceneNodes.OfTake(db, await db.Takes.SingleAsync(t => t.Id == take.Id))).Id);
    }

    [Fact]
    public async Task Two_who_were_brought_in_keep_their_own_motions()
    {
        var take = await Moving((Ines, 1.6f), (Tobi, 1.9f));
        var look = Book.Look(LedgerOwner.Take(take.Id));
        float Height(int performer) =>
            ((MotionValue)look.Value(look.Find(NodeKind.Solve, performer)!)!).Motion.Skeleton.Joints.Sum(j => j.Offset.Length());
        Assert.True(Height(Tobi) > Height(Ines) * 1.1f);
        await using var db = CreateDbContext();
        Assert.Equal(2, await db.Streams.Where(s => s.TakeId == take.Id).Select(s => s.Name).Distinct().CountAsync());
        await new SampleStore(db).WritePlaces(take.Id, 71, new PropPlaces(30, [Vector3.One], [Quaternion.Identity]));
        await new SampleStore(db).WritePlaces(take.Id, 72, new PropPlaces(30, [Vector3.Zero], [Quaternion.Identity]));
        Assert.Equal(4, await db.Streams.CountAsync(s => s.TakeId == take.Id));
    }

    [Fact]
    public async Task A_scene_counts_its_changes_for_itself_and_two_at_once_are_both_kept()
    {
        var (first, second) = (await SceneOf(await Moving((Ines, 1.7f))), await SceneOf(await Moving((Tobi, 1.8f))));
        var clips = Book.Read(first).Nodes.Single(n => n.Entries.Count > 0).Entries[0].Id;
        Parallel.For(0, 2, i => Book.Keep(first, new SwitchEntry(clips, i == 0), seen: 0));
        Assert.Equal(2, Book.Read(first).Revision);
        Assert.Equal(0, Book.Read(second).Revision);
        await using var db = CreateDbContext();
        Assert.All(await db.Takes.ToListAsync(), t => Assert.Equal(0, t.Revision));
        Book.Keep(first, new SwitchEntry(clips, true));
        Book.BringUp(first);
        Assert.NotNull(Book.Look(first).Value(Book.Look(first).Find(NodeKind.Track, Ines)!));
    }

    [Fact]
    public async Task What_there_is_only_one_of_is_taken_back_to_what_it_said_before_and_brought_again_one_change_at_a_time()
    {
        var scene = await SceneOf(await Moving((Ines, 1.7f)));
        DraftNode Track() => Book.Read(scene).Nodes.Single(n => n.Kind == NodeKind.Track);
        var source = SceneOperations.ClipsOf(Track().Entries[0].Entry.Parameters)[0].Node;
        int End() => SceneOperations.ClipsOf(Assert.Single(Track().Entries).Entry.Parameters)[0].End ?? -1;
        void Trim(int end) =>
            Book.Keep(
                scene,
                new AddEntries(
                    SceneOperations.Clips.Name,
                    new JsonObject { ["clips"] = new JsonArray(new JsonObject { ["node"] = source, ["end"] = end }), ["overlap"] = 36 },
                    Track().Id
                )
            );
        Trim(30);
        Trim(20);
        // Between two trims something else is done: it is taken back in its turn.
        Book.Keep(scene, new AddEntries("layer", new JsonObject { ["joint"] = "Chest", ["keys"] = new JsonArray() }));
        Trim(10);
        int Layers() => Book.Read(scene).Nodes.Sum(n => n.Entries.Count(e => e.Entry.Operation == "layer"));
        var seen = new List<(int, int)>();
        for (var k = 0; k < 4; k++)
        {
            seen.Add((End(), Layers()));
            Book.Keep(scene, new TakeBackEntry());
        }

        Assert.Equal([(10, 1), (20, 1), (20, 0), (30, 0)], seen);
        Assert.Equal(-1, End());
        foreach (var wanted in new[] { (30, 0), (20, 0), (20, 1), (10, 1) })
        {
            Book.Keep(scene, new BringAgain());
            Assert.Equal(wanted, (End(), Layers()));
        }

        // And back once more: what was brought again is taken back like any change.
        Book.Keep(scene, new TakeBackEntry());
        Assert.Equal(20, End());
        Assert.Equal(1, Layers());
    }

    [Fact]
    public async Task Nodes_are_read_by_kind_and_then_as_they_were_made_and_additions_are_counted_on()
    {
        var take = await Take(Markers(200), Ines, Tobi);
        var owner = LedgerOwner.Take(take.Id);
        for (var i = 0; i < 4; i++)
        {
            Book.Keep(owner, new AddEntries("hide", Part("A", i * 10)));
        }

        var nodes = Book.Read(owner).Nodes;
        Assert.Equal(nodes.OrderBy(n => n.Kind).ThenBy(n => n.Id).Select(n => n.Id), nodes.Select(n => n.Id));
        Assert.True(nodes.Count(n => n.Kind == NodeKind.Solve) == 2);
        Assert.Equal([1L, 2, 3, 4], nodes.SelectMany(n => n.Entries).Select(e => e.Added));
        Book.Keep(owner, new TakeBackEntry());
        Assert.Equal([0, 10, 20], Book.Read(owner).Nodes[0].Entries.Select(e => (int)e.Entry.Parameters["from"]!));
    }

    [Fact]
    public async Task Several_entries_at_once_are_told_in_one_sentence()
    {
        var (one, both) = (LedgerOwner.Take((await Take()).Id), LedgerOwner.Take((await Take()).Id));
        var words = new[] { "A", "B" }.Select(m => Book.Keep(one, new AddEntries("hide", Part(m, 0))).Summary).ToList();
        Assert.Equal(
            string.Join("; ", words),
            Book.Keep(both, new AddEntries([new("hide", Part("A", 0)), new("hide", Part("B", 0))])).Summary
        );
    }

    [Fact]
    public async Task Labels_stay_before_the_cleaning_that_stands_on_them()
    {
        var owner = LedgerOwner.Take((await Take()).Id);
        Book.Keep(owner, new AddEntries("set-label", new JsonObject { ["dot"] = "Dot_001", ["name"] = "D" }));
        Book.Keep(owner, new AddEntries("hide", Part("A", 0)));
        Book.Keep(owner, new AddEntries("hide", Part("B", 0)));
        var rows = Book.Read(owner).Nodes[0].Entries;
        var e = Assert.Throws<RefusedException>(() => Book.Keep(owner, new MoveEntry(rows[0].Id, 2)));
        Assert.Contains("cannot go after", e.Message, StringComparison.Ordinal);
        Book.Keep(owner, new MoveEntry(rows[2].Id, 1));
        Assert.Equal(["set-label", "hide", "hide"], Book.Read(owner).Nodes[0].Entries.Select(x => x.Entry.Operation));
        Assert.Equal("B", (string?)Book.Read(owner).Nodes[0].Entries[1].Entry.Parameters["marker"]);
    }

    [Fact]
    public async Task Going_back_where_nothing_was_done_keeps_no_version()
    {
        var owner = LedgerOwner.Take((await Take(Markers(50), Ines)).Id);
        Book.Keep(owner, new BackToOriginal());
        await using var db = CreateDbContext();
        Assert.Empty(db.Versions);
        Book.Keep(owner, new AddEntries("hide", Part("A", 0)));
        Book.Keep(owner, new BackToOriginal());
        Assert.Equal(1, db.Versions.Count());
    }

    [Fact]
    public async Task What_cannot_be_brought_up_is_told_with_its_reason_and_the_name_of_the_take()
    {
        var take = await Take(Markers(3000));
        var owner = LedgerOwner.Take(take.Id);
        Book.Keep(owner, new AddEntries("smooth", []));
        await using var db = CreateDbContext();
        await db.Database.ExecuteSqlRawAsync("UPDATE Chunks SET Hash = Hash + 1 WHERE FirstFrame = 0");
        Restart("elsewhere");
        Book.BringUp(owner);
        Assert.Contains(take.Name, Book.Look(owner).State(Book.Look(owner).Find(NodeKind.Markers)!).Reason, StringComparison.Ordinal);
        await db.Database.ExecuteSqlRawAsync("UPDATE Chunks SET Hash = Hash - 1 WHERE FirstFrame = 0");
        var other = LedgerOwner.Take((await Take(Markers(50))).Id);
        Book.Keep(other, new AddEntries("label", []));
        Assert.StartsWith("As far as it goes: ", Book.BringUp(other), StringComparison.Ordinal);
        Assert.True(Book.BringUp(other).Length > 30);
    }

    [Fact]
    public void A_value_says_where_it_begins_and_what_never_changes_is_stored_once()
    {
        var folder = Path.Combine(Folder, "own");
        var still = new MarkerTake(["A", "B"], 120, 5000) { FirstFrame = 77 };
        for (var f = 0; f < 5000; f++)
        {
            (still[f, 0], still[f, 1]) = (new Vector3(1, 2, 3), new Vector3(f, 0, 0));
        }

        var value = new MarkerValue(still);
        var content = ContentHash.Of(value);
        var note = new ResultNote(content, new EntryReport("x", []), 0);
        var store = new ResultStore(folder, 1L << 30);
        store.Keep(7, note, value, quick: false);
        // One column of five thousand places, and one place.
        Assert.InRange(store.StoredBytes(), 5000 * 12, (5000 * 12) + 200);

        var again = new ResultStore(folder, 1L << 30);
        var back = (MarkerValue)again.Value(content)!;
        Assert.Equal((77, new Vector3(1, 2, 3), 4999f), (back.Take.FirstFrame, back.Take[4999, 0], back.Take[4999, 1].X));
    }
}
