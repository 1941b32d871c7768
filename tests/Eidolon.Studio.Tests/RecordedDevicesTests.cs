using System.Buffers.Binary;
using System.Runtime.InteropServices;
using Eidolon.Core.Inertial;
using Eidolon.Devices;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Storage.Samples;
using Eidolon.Studio.Live;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

/// <summary>Packets of a recording as samples that can be solved: each at its moment, holes where none came, nothing of another time.</summary>
public sealed class RecordedDevicesTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    private static byte[] Packet(double seconds, int source, ReadOnlySpan<float> values)
    {
        var bytes = new byte[11 + (values.Length * 4)];
        BinaryPrimitives.WriteDoubleLittleEndian(bytes, seconds);
        bytes[8] = (byte)source;
        BinaryPrimitives.WriteUInt16LittleEndian(bytes.AsSpan(9), (ushort)(values.Length * 4));
        MemoryMarshal.AsBytes(values).CopyTo(bytes.AsSpan(11));
        return bytes;
    }

    private static float[] Row(int count, float value) => [.. Enumerable.Repeat(value, count)];

    private async Task<(EidolonDb Db, Take Take, int Who)> Recorded(string device, params byte[][] packets)
    {
        var db = studio.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();
        var day = await db.Days.FirstAsync();
        var who = new Subject
        {
            ProductionId = day.ProductionId,
            Kind = SubjectKind.Performer,
            Name = $"Ines {Guid.NewGuid():N}",
        };
        db.Subjects.Add(who);
        await db.SaveChangesAsync();
        var take = new Take
        {
            ShootDayId = day.Id,
            Name = $"HL_{Guid.NewGuid():N}",
            SetUp = "HL",
            FrameRate = 120,
            FrameCount = 360,
            State = TakeState.Kept,
        };
        await TakeMaker.Add(db, take, [who.Id], []);
        var stream = new SampleStream
        {
            TakeId = take.Id,
            Name = device,
            Kind = StreamKind.Packets,
            FrameRate = 120,
        };
        db.Streams.Add(stream);
        await db.SaveChangesAsync();
        // Two chunks, as a recording has them.
        var (first, second) = (packets[..(packets.Length / 2)], packets[(packets.Length / 2)..]);
        await new SampleStore(db).Append([
            new SampleStore.Part(stream.Id, 0, first.Length, [.. first.SelectMany(p => p)]),
            new SampleStore.Part(stream.Id, first.Length, second.Length, [.. second.SelectMany(p => p)]),
        ]);
        await RecordedDevices.Unpack(db, take.Id);
        return (db, take, who.Id);
    }

    [Fact]
    public async Task A_suits_packets_are_where_their_clock_says_and_what_is_lost_is_a_hole()
    {
        var packets = Enumerable
            .Range(5, 250)
            .Where(i => i is < 100 or > 109)
            .Select(i => Packet((i / 100.0) + 0.002, 0, Row(SuitTake.Stride, i)))
            .ToList();
        // One that came twice, one out of order, one of the hour before, one of tomorrow, one cut short.
        packets.Add(Packet(0.502, 0, Row(SuitTake.Stride, 50)));
        packets.Insert(0, Packet(0.031, 0, Row(SuitTake.Stride, 3)));
        packets.Add(Packet(-3600, 0, Row(SuitTake.Stride, 7)));
        packets.Add(Packet(86400, 0, Row(SuitTake.Stride, 8)));
        packets.Add(Packet(double.NaN, 0, Row(SuitTake.Stride, 9)));
        packets.Add(Packet(1.5, 0, Row(20, 9)));
        var (db, take, who) = await Recorded("suit", [.. packets]);
        await using var own = db;
        var stream = await db.Streams.SingleAsync(s => s.TakeId == take.Id && s.Name == StreamNames.Suit(who));
        var suit = new SampleStore(db).ReadSuit(stream, "t");
        Assert.Equal((100.0, 255), (suit.FrameRate, suit.FrameCount));
        float At(int f) => suit.Samples[f * SuitTake.Stride];
        Assert.Equal([float.NaN, float.NaN, float.NaN, 3, float.NaN, 5], Enumerable.Range(0, 6).Select(At));
        Assert.Equal([99f, float.NaN, float.NaN], new[] { 99, 100, 109 }.Select(At));
        Assert.Equal([110f, 150, 254], new[] { 110, 150, 254 }.Select(At));
        // The packets themselves are there as they came.
        Assert.True(
            await db.Chunks.AnyAsync(c => db.Streams.Any(s => s.Id == c.StreamId && s.TakeId == take.Id && s.Kind == StreamKind.Packets))
        );
    }

    [Fact]
    public async Task A_witness_cameras_points_and_picture_are_a_film_of_whoever_is_first_on_the_slate()
    {
        float[] Frame(int k) => [.. Row(WitnessPoints.Count * 3, k), .. Row(WitnessPoints.Strokes * WitnessPoints.StrokeValues, 1000 + k)];
        var (db, take, who) = await Recorded("witness-2", [.. Enumerable.Range(0, 60).Select(k => Packet(k / 30.0, 0, Frame(k)))]);
        await using var own = db;
        var store = new SampleStore(db);
        var films = store.ReadFilms([.. db.Streams.Where(s => s.TakeId == take.Id && s.Kind == StreamKind.Film)], "t");
        var film = Assert.Single(films.Films);
        Assert.Equal((30.0, 60, WitnessPoints.Count), (film.FrameRate, film.FrameCount, film.Names.Count));
        Assert.Equal((41f, 41f, 41f), film.At(41, 5));
        Assert.Equal("witness-2", films.Cameras[0].Name);
        Assert.False(films.Cameras[0].IsPlaced);
        var picture = await db.Streams.SingleAsync(s => s.TakeId == take.Id && s.Kind == StreamKind.FilmPicture);
        Assert.Equal(
            (who, 1059f),
            (picture.SubjectId!.Value, store.ReadPicture(picture, WitnessPoints.Strokes * WitnessPoints.StrokeValues, "t")[^1])
        );
    }

    [Fact]
    public async Task A_take_whose_devices_were_never_made_into_samples_is_found_and_made_once()
    {
        var (db, take, who) = await Recorded(
            "suit",
            [.. Enumerable.Range(0, 150).Select(i => Packet(i / 100.0, 0, Row(SuitTake.Stride, i)))]
        );
        await using var own = db;
        Assert.DoesNotContain(take.Id, await RecordedDevices.Missing(db));
        await db.Streams.Where(s => s.TakeId == take.Id && s.Kind == StreamKind.Suit).ExecuteDeleteAsync();
        Assert.Contains(take.Id, await RecordedDevices.Missing(db));
        var job = new JobRow
        {
            Title = "t",
            Kind = Jobs.JobKinds.Unpack,
            TakeId = take.Id,
        };
        db.Jobs.Add(job);
        await db.SaveChangesAsync();
        // Begun twice, as after a kill between its end and the engine's: it is kept once.
        await studio.Services.GetRequiredService<RecordedDevices>().Unpack(take.Id, job.Id, default);
        Assert.Equal(JobState.Done, await db.Jobs.Where(j => j.Id == job.Id).Select(j => j.State).SingleAsync());
        Assert.Equal(StreamNames.Suit(who), (await db.Streams.SingleAsync(s => s.TakeId == take.Id && s.Kind == StreamKind.Suit)).Name);
        Assert.DoesNotContain(take.Id, await RecordedDevices.Missing(db));
    }

    [Fact]
    public async Task A_face_is_sure_where_it_was_sent_and_a_moment_of_it_is_no_recording()
    {
        var (db, take, who) = await Recorded(
            "face",
            [.. Enumerable.Range(0, 90).Where(k => k != 30).Select(k => Packet(k / 60.0, 0, Row(FaceWeights.Names.Count, k / 100f)))]
        );
        await using var own = db;
        var face = new SampleStore(db).ReadFace(
            await db.Streams.SingleAsync(s => s.TakeId == take.Id && s.Name == StreamNames.Face(who)),
            "t"
        );
        Assert.Equal((60.0, 90, FaceWeights.Names.Count), (face.FrameRate, face.FrameCount, face.Names.Count));
        Assert.Equal((0.29f, float.NaN, 0.31f), (face.At(29, 4), face.At(30, 4), face.At(31, 4)));
        Assert.Equal((1f, float.NaN), (face.At(29, FaceWeights.Names.Count), face.At(30, FaceWeights.Names.Count)));
        var (other, few, _) = await Recorded(
            "face",
            [.. Enumerable.Range(0, 40).Select(k => Packet(k / 60.0, 0, Row(FaceWeights.Names.Count, 0)))]
        );
        await using var its = other;
        Assert.False(await other.Streams.AnyAsync(s => s.TakeId == few.Id && s.Kind == StreamKind.Face));
    }
}
