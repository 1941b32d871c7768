using System.Numerics;
using Eidolon.Core;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Optical;
using Eidolon.Core.Skeletons;
using Eidolon.Storage.Model;
using Eidolon.Storage.Samples;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Tests;

public sealed class SampleStoreTests : Studio
{
    private async Task<(EidolonDb Db, SampleStore Store, SampleStream Stream)> Read(int take, string name)
    {
        var db = CreateDbContext();
        return (db, new SampleStore(db), await db.Streams.AsNoTracking().SingleAsync(s => s.TakeId == take && s.Name == name));
    }

    [Fact]
    public async Task Markers_come_back_bit_for_bit_and_their_stream_knows_its_content()
    {
        var markers = Markers(3000);
        var take = await Take(markers);
        var (_, store, stream) = await Read(take.Id, StreamNames.Markers);
        Assert.Equal(markers.Bytes.ToArray(), store.ReadMarkers(stream, "t").Bytes.ToArray());
        Assert.Equal(ContentHash.Text(ContentHash.Of(new MarkerValue(markers))), stream.Content);
    }

    [Theory]
    [InlineData("UPDATE Chunks SET Data = zeroblob(length(Data)) WHERE FirstFrame = 1200", "1200")]
    [InlineData("DELETE FROM Chunks WHERE FirstFrame = 1200", "1200 to 2399")]
    [InlineData("DELETE FROM Chunks WHERE FirstFrame = 2400", "2400")]
    public async Task What_is_damaged_or_gone_is_named_with_its_frame(string damage, string frame)
    {
        var take = await Take(Markers(3000));
        var (db, store, stream) = await Read(take.Id, StreamNames.Markers);
        await db.Database.ExecuteSqlRawAsync(damage);
        var e = Assert.Throws<DamagedDataException>(() => store.ReadMarkers(stream, "HL_x"));
        Assert.Contains("HL_x", e.Message, StringComparison.Ordinal);
        Assert.Contains(frame, e.Message, StringComparison.Ordinal);
    }

    [Fact]
    public async Task The_2D_is_checked_as_everything_else()
    {
        var builder = new CentroidTakeBuilder(2, 120);
        for (var f = 0; f < 1500; f++)
        {
            builder.Add([f, 2], [3, 4]);
            builder.Add([], []);
        }

        var take = await Take();
        var (db, store, _) = await Read(take.Id, StreamNames.Markers);
        await store.WriteCentroids(take.Id, builder.Build());
        var (_, _, stream) = await Read(take.Id, StreamNames.Ring);
        var back = store.ReadCentroids(stream, 2, "t");
        Assert.Equal((1500, 1499f), (back.FrameCount, back.UAt(1499, 0)[0]));
        await db.Database.ExecuteSqlAsync(
            $"UPDATE Chunks SET Data = zeroblob(length(Data)) WHERE StreamId = {stream.Id} AND FirstFrame = 1200"
        );
        Assert.Contains(
            "1200",
            Assert.Throws<DamagedDataException>(() => store.ReadCentroids(stream, 2, "t")).Message,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task Places_and_motions_come_back_as_they_were()
    {
        var take = await Take(null, Ines);
        var places = new PropPlaces(
            120,
            [Vector3.One, MarkerTake.Hidden, Vector3.Zero],
            [Quaternion.Identity, Quaternion.Identity, new(0, 1, 0, 0)]
        );
        var s = Anthropometry.Body(1.8f);
        var motion = new MotionValue(
            new Motion(
                s,
                30,
                5,
                [.. Enumerable.Repeat(Quaternion.Identity, 5 * s.Count)],
                [.. Enumerable.Range(0, 5).SelectMany(_ => s.Joints.Select(j => j.Offset))]
            )
        );
        await using (var db = CreateDbContext())
        {
            await new SampleStore(db).WritePlaces(take.Id, 77, places);
            await new SampleStore(db).WriteMotion(take.Id, Ines, motion);
        }

        var (_, store, stream) = await Read(take.Id, StreamNames.Places(77));
        Assert.Equal(ContentHash.Of(new PlacesValue(places)), ContentHash.Of(new PlacesValue(store.ReadPlaces(stream, "t"))));
        var (_, _, moved) = await Read(take.Id, StreamNames.Motion(Ines));
        Assert.Equal(ContentHash.Of(motion), ContentHash.Of(store.ReadMotion(moved, "t")));
    }

    [Fact]
    public async Task A_recording_that_was_cut_off_keeps_every_stored_chunk()
    {
        await using var db = CreateDbContext();
        Take Open(string name) =>
            new()
            {
                ProductionId = 1,
                ShootDayId = 1,
                Name = name,
                SetUp = "HL",
                FrameRate = 120,
                State = TakeState.Recording,
            };
        var (take, empty) = (Open("HL_cut"), Open("HL_empty"));
        db.Takes.AddRange(take, empty);
        await db.SaveChangesAsync();
        var store = new SampleStore(db);
        var stream = await store.Add(
            new SampleStream
            {
                TakeId = take.Id,
                Name = StreamNames.Markers,
                Kind = StreamKind.Markers,
                FrameRate = 120,
                Channels = "A\nB",
            }
        );
        for (var k = 0; k < 3; k++)
        {
            await store.Append([new SampleStore.Part(stream.Id, k * 60, 60, new byte[60 * 2 * 12])]);
        }

        Assert.Equal(2, await RecordingRecovery.Run(db));
        await using var again = CreateDbContext();
        var kept = await again.Takes.Include(t => t.Streams).FirstAsync(t => t.Name == "HL_cut");
        Assert.Equal((180, TakeState.Kept), (kept.FrameCount, kept.State));
        Assert.Contains("cut off", kept.Shortened, StringComparison.Ordinal);
        Assert.Equal(180, new SampleStore(again).ReadMarkers(kept.Streams[0], "t").FrameCount);
        Assert.False(await again.Takes.AnyAsync(t => t.Name == "HL_empty"));
    }
}
