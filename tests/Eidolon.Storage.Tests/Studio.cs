using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Storage.Blobs;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Storage.Results;
using Eidolon.Storage.Samples;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Tests;

/// <summary>A studio's store in a folder of its own, with a production, a day, a marker set and two performers who are not measured.</summary>
public class Studio : IAsyncLifetime, IDbContextFactory<EidolonDb>
{
    public string Folder { get; } = Directory.CreateTempSubdirectory("eidolon-storage").FullName;

    public DbContextOptions<EidolonDb> Options { get; private set; } = null!;

    public BlobStore Blobs { get; private set; } = null!;

    /// <summary>Counts what is run: every result is kept exactly once.</summary>
    public CountingStore Results { get; private set; } = null!;

    /// <summary>The store behind it.</summary>
    public ResultStore Stored { get; private set; } = null!;

    public LedgerBook Book { get; private set; } = null!;

    public int Set { get; private set; }

    public int Ines { get; private set; }

    public int Tobi { get; private set; }

    public EidolonDb CreateDbContext() => new(Options);

    public virtual async Task InitializeAsync()
    {
        Options = new DbContextOptionsBuilder<EidolonDb>()
            .UseSqlite($"Data Source={Path.Combine(Folder, "studio.db")};Default Timeout=30")
            .Options;
        Blobs = new BlobStore(Path.Combine(Folder, "blobs"));
        Restart();
        await using var db = CreateDbContext();
        await db.Database.MigrateAsync();
        await db.Database.ExecuteSqlRawAsync("PRAGMA journal_mode=WAL;");
        var set = new MarkerSetRow
        {
            ProductionId = 1,
            Name = "Five",
            Json = SetJson("A", "B", "C", "D", "E"),
        };
        db.MarkerSets.Add(set);
        await db.SaveChangesAsync();
        var production = new Production { Name = "Harbour Lights", MarkerSetId = set.Id };
        production.Days.Add(new ShootDay { Name = "Day 1", Date = new DateOnly(2026, 5, 4) });
        db.Productions.Add(production);
        var ines = new Subject
        {
            ProductionId = 1,
            Kind = SubjectKind.Performer,
            Name = "Ines",
        };
        var tobi = new Subject
        {
            ProductionId = 1,
            Kind = SubjectKind.Performer,
            Name = "Tobi",
        };
        db.Subjects.AddRange(ines, tobi);
        await db.SaveChangesAsync();
        (Set, Ines, Tobi) = (set.Id, ines.Id, tobi.Id);
    }

    public Task DisposeAsync()
    {
        SqliteConnection.ClearAllPools();
        Directory.Delete(Folder, recursive: true);
        return Task.CompletedTask;
    }

    /// <summary>As a studio that was started again, with or without what was kept of results.</summary>
    public void Restart(string results = "results", long limit = 1L << 30, long memory = 100_000_000)
    {
        Stored = new ResultStore(Path.Combine(Folder, results), limit, memory);
        Results = new CountingStore(Stored);
        Book = new LedgerBook(this, new ResourceMemory(), Blobs, Results, TimeProvider.System);
    }

    public static string SetJson(params string[] markers) =>
        new JsonObject
        {
            ["name"] = "Five",
            ["markers"] = new JsonArray([.. markers.Select(m => (JsonNode)new JsonObject { ["name"] = m, ["segment"] = "Chest" })]),
            ["links"] = new JsonArray(new JsonArray("A", "B")),
        }.ToJsonString();

    public static MarkerTake Markers(int frames = 240, int seed = 1)
    {
        var random = new Random(seed);
        var markers = new MarkerTake(["A", "B", "C", "Dot_001", "Dot_002"], 120, frames);
        for (var f = 0; f < frames; f++)
        {
            for (var m = 0; m < 5; m++)
            {
                markers[f, m] =
                    (f + (m * 31)) % 97 < 4
                        ? MarkerTake.Hidden
                        : new Vector3((random.NextSingle() * 0.001f) + (m * 0.2f), 1 + (0.1f * MathF.Sin((f + (m * 9)) / 30f)), 0.3f * m);
            }
        }

        return markers;
    }

    /// <summary>A take with raw markers and its nodes.</summary>
    public async Task<Take> Take(MarkerTake? markers = null, params int[] performers)
    {
        markers ??= Markers();
        await using var db = CreateDbContext();
        var take = new Take
        {
            ProductionId = 1,
            ShootDayId = 1,
            Name = $"HL_{Guid.NewGuid():N}",
            SetUp = "HL",
            FrameRate = markers.FrameRate,
            FrameCount = markers.FrameCount,
            State = TakeState.Kept,
        };
        take.Parts.AddRange(
            performers.Select(
                (p, i) =>
                    new TakePart
                    {
                        SubjectId = p,
                        Position = i,
                        Prefix = performers.Length > 1 ? $"P{p}" : "",
                    }
            )
        );
        db.Takes.Add(take);
        await db.SaveChangesAsync();
        await new SampleStore(db).WriteMarkers(take.Id, markers);
        await TakeNodes.Ensure(db, take);
        return take;
    }

    /// <summary>A job of a take that waits.</summary>
    public async Task<int> Job(int take)
    {
        await using var db = CreateDbContext();
        var job = new JobRow
        {
            Title = "t",
            Kind = "change",
            TakeId = take,
        };
        db.Jobs.Add(job);
        await db.SaveChangesAsync();
        return job.Id;
    }

    /// <summary>The markers of a take as a fresh process without any kept result works them out.</summary>
    public UInt128? FromRaw(LedgerOwner owner, NodeKind kind = NodeKind.Markers)
    {
        var fresh = new LedgerBook(
            this,
            new ResourceMemory(),
            Blobs,
            new ResultStore(Path.Combine(Folder, Guid.NewGuid().ToString("N")), 1L << 30),
            TimeProvider.System
        );
        fresh.BringUp(owner);
        var look = fresh.Look(owner);
        return look.State(look.Find(kind)!).Shown;
    }
}

/// <summary>A result store that counts what is kept in it.</summary>
public sealed class CountingStore(IResultStore inner) : IResultStore
{
    private readonly Dictionary<UInt128, int> _kept = [];

    /// <summary>How often each key was kept.</summary>
    public IReadOnlyDictionary<UInt128, int> Kept => _kept;

    public ResultNote? Find(UInt128 key) => inner.Find(key);

    public bool Has(UInt128 content) => inner.Has(content);

    public NodeValue? Value(UInt128 content) => inner.Value(content);

    public void Keep(UInt128 key, ResultNote note, NodeValue? value, bool quick)
    {
        lock (_kept)
        {
            _kept[key] = _kept.GetValueOrDefault(key) + 1;
        }

        inner.Keep(key, note, value, quick);
    }

    public ResultNote Once(UInt128 key, Func<ResultNote> work, CancellationToken cancel) => inner.Once(key, work, cancel);

    public void Remember(UInt128 content, NodeValue value) => inner.Remember(content, value);
}
