using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.Storage.Model;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Tests;

public sealed class StorageTests : IAsyncLifetime
{
    private readonly string _folder = Directory.CreateTempSubdirectory("eidolon-storage").FullName;
    private DbContextOptions<EidolonDb> _options = null!;
    private EidolonDb _db = null!;

    public async Task InitializeAsync()
    {
        _options = new DbContextOptionsBuilder<EidolonDb>().UseSqlite($"Data Source={Path.Combine(_folder, "t.db")}").Options;
        _db = new EidolonDb(_options);
        await _db.Database.MigrateAsync();
        _db.Productions.Add(
            new Production
            {
                Name = "Harbour Lights",
                Days =
                {
                    new ShootDay { Name = "Day 1", Date = new DateOnly(2026, 5, 4) },
                },
            }
        );
        await _db.SaveChangesAsync();
    }

    public async Task DisposeAsync()
    {
        await _db.DisposeAsync();
        SqliteConnection.ClearAllPools();
        Directory.Delete(_folder, recursive: true);
    }

    private async Task<(Take Take, MarkerTake Markers)> Store(int frames = 3000)
    {
        var random = new Random(1);
        var markers = new MarkerTake(["A", "B", "C", "D", "E"], 120, frames);
        for (var k = 0; k < markers.Positions.Length; k++)
        {
            markers.Positions[k] =
                k % 97 < 4 ? MarkerTake.Hidden : new Vector3(random.NextSingle() * 0.001f + (k % 5), MathF.Sin(k / 500f), 1);
        }

        var take = new Take
        {
            ShootDayId = 1,
            Name = $"HL_{Guid.NewGuid():N}",
            SetUp = "HL",
            Performer = "Ines",
            FrameRate = 120,
            FrameCount = frames,
            Channels = string.Join('\n', markers.Names),
            RawHash = "h",
            State = TakeState.Kept,
        };
        _db.Takes.Add(take);
        await _db.SaveChangesAsync();
        await new SampleStore(_db).WriteMarkers(take.Id, markers);
        return (take, markers);
    }

    [Fact]
    public async Task Samples_come_back_bit_for_bit()
    {
        var (take, markers) = await Store();
        Assert.Equal(markers.Bytes.ToArray(), (await new SampleStore(_db).ReadMarkers(take)).Bytes.ToArray());
    }

    [Fact]
    public async Task A_changed_byte_is_noticed()
    {
        var (take, _) = await Store();
        await _db.Database.ExecuteSqlRawAsync("UPDATE Chunks SET Data = zeroblob(length(Data)) WHERE FirstFrame = 1200");
        var e = await Assert.ThrowsAsync<DamagedDataException>(() => new SampleStore(_db).ReadMarkers(take));
        Assert.Contains("1200", e.Message, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_recording_that_was_cut_off_keeps_every_stored_chunk()
    {
        var take = new Take
        {
            ShootDayId = 1,
            Name = "HL_cut",
            SetUp = "HL",
            Performer = "Ines",
            FrameRate = 120,
            Channels = "A\nB",
            State = TakeState.Recording,
        };
        var empty = new Take
        {
            ShootDayId = 1,
            Name = "HL_empty",
            SetUp = "HL",
            Performer = "Ines",
            FrameRate = 120,
            Channels = "A\nB",
            State = TakeState.Recording,
        };
        _db.Takes.AddRange(take, empty);
        await _db.SaveChangesAsync();
        var store = new SampleStore(_db);
        for (var k = 0; k < 3; k++)
        {
            await store.Append(take.Id, SampleStore.RawMarkers, k * 60, 60, new byte[60 * 2 * 12]);
        }

        Assert.Equal(2, await RecordingRecovery.Run(_db));
        await using var again = new EidolonDb(_options);
        var kept = await again.Takes.FirstAsync(t => t.Name == "HL_cut");
        Assert.Equal((180, TakeState.Kept), (kept.FrameCount, kept.State));
        Assert.Contains("cut off", kept.Shortened, StringComparison.Ordinal);
        Assert.Equal(180, (await new SampleStore(again).ReadMarkers(kept)).FrameCount);
        Assert.False(await again.Takes.AnyAsync(t => t.Name == "HL_empty"));
    }

    [Fact]
    public async Task The_ledger_adds_switches_and_takes_back_and_raw_stays_as_it_was()
    {
        var (take, markers) = await Store();
        var cache = new ResultCache(new Factory(_options));
        var ledger = new TakeLedger(_db, new SampleStore(_db), cache);
        var resources = new Nothing();
        take = await ledger.Load(take.Id);
        await ledger.Add(take, MarkerOperations.Fill.Entry(new JsonObject { ["method"] = "spline", ["longest"] = 20 }), "x");
        await ledger.Add(take, MarkerOperations.Smooth.Entry(new JsonObject { ["cutoff"] = 8 }), "y");
        take = await ledger.Load(take.Id);
        var (both, results, _) = await ledger.Run(take, resources);
        Assert.Equal(2, results.Count(r => r is not null));
        await ledger.Switch(take, take.Ledger[1].Id, false);
        var (filled, _, _) = await ledger.Run(await ledger.Load(take.Id), resources);
        Assert.NotEqual(both.Markers!.Bytes.ToArray(), filled.Markers!.Bytes.ToArray());
        await ledger.TakeBack(take);
        await ledger.TakeBack(take);
        Assert.Null(await ledger.TakeBack(take));
        var (raw, _, _) = await ledger.Run(await ledger.Load(take.Id), resources);
        Assert.Equal(markers.Bytes.ToArray(), raw.Markers!.Bytes.ToArray());
    }

    [Fact]
    public void A_result_is_found_again_by_a_new_studio()
    {
        var data = new TakeData(new MarkerTake(["A"], 60, 3), Body(), Body(), "Stevedore");
        var entry = new Entry("smooth", 1, new JsonObject { ["cutoff"] = 8 });
        new ResultCache(new Factory(_options)).Keep(entry.Hash(5), new OperationResult(data, "said", new JsonObject { ["k"] = 1 }));
        var back = new ResultCache(new Factory(_options)).Find(entry.Hash(5));
        Assert.NotNull(back);
        Assert.Equal("said", back.Summary);
        Assert.Equal(data.Character!.Rotations, back.Data.Character!.Rotations);
        Assert.Equal(
            data.Performer!.Skeleton.Joints.Select(j => (j.Name, j.Role, j.Offset)),
            back.Data.Performer!.Skeleton.Joints.Select(j => (j.Name, j.Role, j.Offset))
        );
        Assert.Null(new ResultCache(new Factory(_options)).Find(entry.Hash(6)));
        Assert.NotEqual(entry.Hash(5), (entry with { Parameters = new JsonObject { ["cutoff"] = 9 } }).Hash(5));
        Assert.Equal((UInt128)5, (entry with { On = false }).Hash(5));
    }

    private static Motion Body()
    {
        var s = Anthropometry.Body(1.7f);
        return new Motion(
            s,
            120,
            1,
            [.. s.Joints.Select((_, i) => Quaternion.Normalize(new Quaternion(i, 1, 2, 3)))],
            [.. s.Joints.Select(j => j.Offset)]
        );
    }

    private sealed class Factory(DbContextOptions<EidolonDb> options) : IDbContextFactory<EidolonDb>
    {
        public EidolonDb CreateDbContext() => new(options);
    }

    private sealed class Nothing : IResources
    {
        public (Core.Optical.CentroidTake Seen, Core.Optical.CameraRing Ring) Pictures() => throw new ArgumentException("none");

        public MarkerSet MarkerSet() => new("none", [], []);

        public Performer Performer() => throw new InvalidOperationException();

        public IReadOnlyList<LabelSubject> Subjects(CancellationToken cancel) => [];

        public Skeleton Character(string name) => throw new InvalidOperationException();

        public Motion Clip(string take, string character) => throw new InvalidOperationException();
    }
}
