using System.IO.Compression;
using Eidolon.Core;
using Eidolon.Core.Operations;
using Eidolon.Storage.Blobs;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Storage.Opening;
using Eidolon.Storage.Results;
using Eidolon.Storage.Samples;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Tests;

/// <summary>A small studio of the version before, as it was written then, opens in this one.</summary>
public sealed class LastStudioTests : IDisposable, IDbContextFactory<EidolonDb>
{
    private readonly string _folder = Directory.CreateTempSubdirectory("eidolon-last").FullName;

    public LastStudioTests()
    {
        using var packed = new GZipStream(
            File.OpenRead(Path.Combine(AppContext.BaseDirectory, "assets", "studio-2026-12-01.db.gz")),
            CompressionMode.Decompress
        );
        using var file = File.Create(Db);
        packed.CopyTo(file);
    }

    private string Db => Path.Combine(_folder, "studio.db");

    public void Dispose()
    {
        SqliteConnection.ClearAllPools();
        Directory.Delete(_folder, recursive: true);
    }

    public EidolonDb CreateDbContext() =>
        new(new DbContextOptionsBuilder<EidolonDb>().UseSqlite($"Data Source={Db};Pooling=False").Options);

    private async Task Open()
    {
        await using var db = CreateDbContext();
        await StudioDatabase.Open(db, Db, cutOff: true, _ => { });
    }

    [Fact]
    public async Task Its_take_ledger_and_samples_are_there_and_can_be_run()
    {
        await Open();
        await using var db = CreateDbContext();
        Assert.Empty(await db.Database.GetPendingMigrationsAsync());
        var take = await db.Takes.Include(t => t.Streams).Include(t => t.Nodes).ThenInclude(n => n.Entries).SingleAsync();
        Assert.Equal(("HL_051_quay-run_01", 629), (take.Name, take.FrameCount));
        Assert.Equal(
            ["label", "despike", "fill", "solve", "retarget"],
            take.Nodes.OrderBy(n => n.Kind).SelectMany(n => n.Entries.OrderBy(e => e.Position)).Select(e => e.Operation)
        );
        var stream = take.Streams.Single(s => s.Name == StreamNames.Markers);
        Assert.Equal(629, new SampleStore(db).ReadMarkers(stream, take.Name).FrameCount);
        var book = new LedgerBook(
            this,
            new ResourceMemory(),
            new BlobStore(Path.Combine(_folder, "blobs")),
            new ResultStore(Path.Combine(_folder, "results"), 100_000_000),
            TimeProvider.System
        );
        var look = book.Look(LedgerOwner.Take(take.Id));
        Assert.True(look.State(look.Find(NodeKind.Markers)!).OutOfDate);
        var run = look.Runner.Run(look.Find(NodeKind.Markers)!.Id);
        Assert.True(run.UpToDate, run.Reason);
        Assert.Equal(629, look.Runner.Target(run.Node.Id, run: false).Value.FrameCount);
    }

    [Fact]
    public async Task It_is_copied_without_its_samples_before_it_gets_the_new_form()
    {
        await Open();
        var copy = Assert.Single(Directory.GetFiles(_folder, "studio-before-*.db"));
        Assert.True(new FileInfo(copy).Length < new FileInfo(Db).Length, "the samples were copied too");
        await using var old = new SqliteConnection($"Data Source={copy};Pooling=False");
        await old.OpenAsync();
        async Task<object?> Ask(string sql)
        {
            await using var ask = old.CreateCommand();
            ask.CommandText = sql;
            return await ask.ExecuteScalarAsync();
        }

        Assert.Equal(0L, await Ask("SELECT count(*) FROM Chunks"));
        Assert.Equal("HL_051_quay-run_01", await Ask("SELECT Name FROM Takes"));
        Assert.Equal("20261201020718_FrameNotes", await Ask("SELECT max(MigrationId) FROM __EFMigrationsHistory"));
        // Of many changes of form only the newest copies stay.
        foreach (var n in Enumerable.Range(1, 4))
        {
            await File.WriteAllTextAsync(Path.Combine(_folder, $"studio-before-{n}.db"), "old");
            File.SetLastWriteTimeUtc(Path.Combine(_folder, $"studio-before-{n}.db"), new DateTime(2026, 1, n, 0, 0, 0, DateTimeKind.Utc));
        }

        await using (var db = CreateDbContext())
        {
            await db.Database.ExecuteSqlRawAsync(
                """
                DELETE FROM "__EFMigrationsHistory" WHERE "MigrationId" LIKE '%SolidEdges';
                DROP TABLE "Outbox"; ALTER TABLE "Jobs" DROP COLUMN "Starts"; ALTER TABLE "HandOffs" DROP COLUMN "Receipt"
                """
            );
        }

        await Open();
        Assert.Equal(2, Directory.GetFiles(_folder, "studio-before-*.db").Length);
        Assert.True(File.Exists(copy));
    }

    [Fact]
    public async Task One_of_a_form_before_that_is_told_what_to_do()
    {
        await using (var db = CreateDbContext())
        {
            await db.Database.ExecuteSqlRawAsync("DELETE FROM \"__EFMigrationsHistory\" WHERE \"MigrationId\" > '20261201'");
        }

        var before = new FileInfo(Db).Length;
        var said = await Assert.ThrowsAsync<RefusedException>(Open);
        Assert.Contains("open it once with the version after that one", said.Message, StringComparison.Ordinal);
        Assert.Equal(before, new FileInfo(Db).Length);
        Assert.Empty(Directory.GetFiles(_folder, "studio-before-*"));
    }
}
