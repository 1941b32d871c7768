using System.Numerics;
using Eidolon.Core;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Optical;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Storage.Samples;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Tests;

/// <summary>Damaged samples: what is whole is there, a person may go on without the rest, and mended ones are taken up again.</summary>
public sealed class DamageTests : Studio
{
    private const string Break = "UPDATE Chunks SET Hash = Hash + 1 WHERE FirstFrame = 1200";
    private const string Mend = "UPDATE Chunks SET Hash = Hash - 1 WHERE FirstFrame = 1200";

    private async Task Sql(string sql)
    {
        await using var db = CreateDbContext();
        await db.Database.ExecuteSqlRawAsync(sql);
        // A process that has not read them yet.
        Restart($"store-{Guid.NewGuid():N}");
    }

    private MarkerTake? Value(LedgerOwner owner)
    {
        var look = Book.Look(owner);
        return (look.Value(look.Find(NodeKind.Markers)!) as MarkerValue)?.Take;
    }

    [Fact]
    public async Task A_person_goes_on_without_damaged_frames_and_takes_them_up_again()
    {
        var markers = Markers(3000);
        var take = await Take(markers);
        var owner = LedgerOwner.Take(take.Id);
        var repair = new DamageRepair(this);
        Book.Keep(owner, new AddEntries("smooth", []));
        Book.BringUp(owner);
        var whole = Value(owner)!;
        await Sql(Break);
        Assert.Null(Value(owner));
        // What is whole can be looked at.
        var look = Book.Look(owner);
        var rest = look.Nodes.Rest(look.Find(NodeKind.Markers)!)!;
        Assert.True(rest.At(1200).ToArray().All(p => !MarkerTake.Seen(p)) && rest.At(2399).ToArray().All(p => !MarkerTake.Seen(p)));
        Assert.Equal(markers.At(1199).ToArray(), rest.At(1199).ToArray());
        Assert.Equal(markers.At(2400).ToArray(), rest.At(2400).ToArray());
        var found = Assert.Single(repair.Find(take.Id));
        Assert.Equal([new FrameSpan(1200, 2399)], found.Damaged);
        Assert.Contains("1200 to 2399", repair.LeaveOut(take.Id), StringComparison.Ordinal);
        Book.BringUp(owner);
        var without = Value(owner)!;
        Assert.Equal(3000, without.FrameCount);
        Assert.False(MarkerTake.Seen(without.At(1800)[0]));
        Assert.True(MarkerTake.Seen(without.At(600)[0]));
        // Further damage is not passed over.
        await Sql("UPDATE Chunks SET Hash = Hash + 1 WHERE FirstFrame = 0");
        Assert.Null(Value(owner));
        await Sql("UPDATE Chunks SET Hash = Hash - 1 WHERE FirstFrame = 0");
        // Mended: as it was, without anything kept of the time between.
        await Sql(Mend);
        repair.ReadAgain(take.Id);
        Book.BringUp(owner);
        Assert.Equal(ContentHash.Of(new MarkerValue(whole)), ContentHash.Of(new MarkerValue(Value(owner)!)));
    }

    [Fact]
    public async Task What_is_read_again_is_this_takes_alone()
    {
        var (first, second) = (await Take(Markers(1300)), await Take(Markers(1300)));
        await Sql(Break);
        var repair = new DamageRepair(this);
        Assert.StartsWith("frames 1200 to 1299 of 'markers'", repair.LeaveOut(first.Id), StringComparison.Ordinal);
        repair.LeaveOut(second.Id);
        repair.ReadAgain(first.Id);
        await using var db = CreateDbContext();
        SampleStream Of(int take) => db.Streams.AsNoTracking().Single(s => s.TakeId == take);
        Assert.Equal(string.Empty, Of(first.Id).LeftOut);
        Assert.Equal("1200-1299", Of(second.Id).LeftOut);
        // Left out is told of as well, though it is no trouble any more.
        await Sql(Mend);
        Assert.Empty(repair.Find(first.Id));
        Assert.Empty(Assert.Single(repair.Find(second.Id)).Damaged);
    }

    [Fact]
    public async Task Frames_of_the_2D_and_of_props_that_are_left_out_saw_nothing()
    {
        var take = await Take(Markers(10));
        var builder = new CentroidTakeBuilder(2, 120);
        var (places, turns) = (new Vector3[3000], new Quaternion[3000]);
        for (var f = 0; f < 3000; f++)
        {
            builder.Add([f, 2], [3, 4]);
            builder.Add([f % 900], [1]);
            (places[f], turns[f]) = (new Vector3(f, 1, 2), new Quaternion(0, 1, 0, 0));
        }

        await using (var db = CreateDbContext())
        {
            await new SampleStore(db).WriteCentroids(take.Id, builder.Build());
            await new SampleStore(db).WritePlaces(take.Id, 77, new PropPlaces(120, places, turns));
        }

        await Sql(Break);
        new DamageRepair(this).LeaveOut(take.Id);
        await using var after = CreateDbContext();
        var store = new SampleStore(after);
        SampleStream Named(string name) => after.Streams.AsNoTracking().Single(s => s.TakeId == take.Id && s.Name == name);
        var ring = store.ReadCentroids(Named(StreamNames.Ring), 2, "t");
        var whole = store.ReadPlaces(Named(StreamNames.Places(77)), "t");
        Assert.Equal((3000, 3000), (ring.FrameCount, whole.FrameCount));
        for (var f = 0; f < 3000; f += 7)
        {
            var gone = f is >= 1200 and < 2400;
            Assert.Equal(gone ? 0 : 2, ring.UAt(f, 0).Length);
            Assert.Equal(gone ? 0 : 1, ring.UAt(f, 1).Length);
            Assert.Equal(!gone, MarkerTake.Seen(whole.Positions[f]));
            Assert.Equal(gone ? Quaternion.Identity : turns[f], whole.Turns[f]);
            Assert.True(gone || (ring.UAt(f, 1)[0] == f % 900 && whole.Positions[f] == places[f]), $"frame {f}");
        }
    }

    [Fact]
    public async Task Nothing_is_left_out_of_a_take_that_is_whole()
    {
        var take = await Take(Markers(10));
        Assert.Empty(new DamageRepair(this).Find(take.Id));
        Assert.Throws<RefusedException>(() => new DamageRepair(this).LeaveOut(take.Id));
    }

    [Fact]
    public void Spans_are_written_read_and_joined()
    {
        FrameSpan[] spans = [new(10, 20), new(0, 4), new(5, 9), new(40, 40)];
        var joined = FrameSpans.Joined(spans);
        Assert.Equal([new(0, 20), new(40, 40)], joined);
        Assert.Equal(joined, FrameSpans.Read(FrameSpans.Write(joined)));
        Assert.Equal("0 to 20 and 40", FrameSpans.Words(joined));
        Assert.True(joined.Contain(new(3, 20)) && !joined.Contain(new(20, 21)));
    }
}
