using System.IO.Compression;
using Eidolon.Core;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.Storage.Blobs;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Storage.Results;
using Eidolon.Storage.Upgrade;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Tests;

/// <summary>A small studio of the version before, kept as it was written then, opens in this one.</summary>
public sealed class UpgradeTests : IDisposable, IDbContextFactory<EidolonDb>
{
    private readonly string _folder = Directory.CreateTempSubdirectory("eidolon-upgrade").FullName;
    private readonly BlobStore _blobs;

    public UpgradeTests()
    {
        _blobs = new BlobStore(Path.Combine(_folder, "blobs"));
        using var packed = new GZipStream(
            File.OpenRead(Path.Combine(AppContext.BaseDirectory, "assets", "studio-before.db.gz")),
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

    public EidolonDb CreateDbContext() => new(new DbContextOptionsBuilder<EidolonDb>().UseSqlite($"Data Source={Db}").Options);

    private Task<bool> Upgrade() => StudioUpgrade.Run(_folder, _blobs, _ => { });

    [Fact]
    public async Task Every_take_ledger_version_recipe_and_note_is_there()
    {
        Assert.True(await Upgrade());
        await using var db = CreateDbContext();
        Assert.Empty(await db.Database.GetPendingMigrationsAsync());
        Assert.Equal(4, await db.Takes.CountAsync());
        var walk = await db
            .Takes.Include(t => t.Parts)
                .ThenInclude(p => p.Subject)
            .Include(t => t.Nodes)
                .ThenInclude(n => n.Entries)
            .SingleAsync(t => t.Name == "HL_009_lamp-walk_01");
        Assert.Equal(("Good light, keep", true, 4), (walk.Note, walk.Circled, walk.Rating));
        Assert.Equal("Ines, lantern pole", walk.Who);
        Assert.NotNull(walk.MarkerSetId);
        string Entries(NodeKind kind) =>
            string.Join(
                ' ',
                walk.Nodes.Where(n => n.Kind == kind)
                    .SelectMany(n => n.Entries.OrderBy(e => e.Position))
                    .Select(e => e.On ? e.Operation : $"({e.Operation})")
            );
        Assert.Equal("label (despike) fill", Entries(NodeKind.Markers));
        Assert.Equal("solve contacts", Entries(NodeKind.Solve));
        Assert.Equal("retarget", Entries(NodeKind.Cast));
        var scene = await db.Scenes.Include(s => s.Nodes).ThenInclude(n => n.Entries).Include(s => s.HandOffs).SingleAsync();
        Assert.Equal(walk.Id, scene.TakeId);
        Assert.Contains(scene.Nodes, n => n.Kind == NodeKind.Layers && n.Entries.Single().Operation == "layer");
        Assert.NotNull(await _blobs.Find(db, scene.HandOffs.Single().BlobId));
        Assert.Equal("Before smoothing", (await db.Versions.SingleAsync()).Name);
        Assert.Equal(["label", "fill"], Recipe.Read((await db.Recipes.SingleAsync()).Entries).Select(e => e.Operation));
        Assert.Equal("behind the post", (await db.Ignored.SingleAsync()).Reason);
        Assert.Equal(0.4, (await db.Videos.SingleAsync()).OffsetSeconds);
        Assert.Equal(2, await db.Subjects.CountAsync(s => s.Kind == SubjectKind.Performer && s.Version == 1));
        Assert.True(File.Exists(Path.Combine(_folder, StudioUpgrade.Backup)));
    }

    [Fact]
    public async Task What_was_done_can_be_run_again_to_its_end()
    {
        await Upgrade();
        await using var db = CreateDbContext();
        var id = await db.Takes.Where(t => t.Name == "HL_009_lamp-walk_01").Select(t => t.Id).SingleAsync();
        var results = new ResultStore(Path.Combine(_folder, "results"), 1L << 30);
        var book = new LedgerBook(this, new ResourceMemory(), _blobs, results, TimeProvider.System);
        var before = book.Look(LedgerOwner.Take(id));
        Assert.NotEmpty(before.OutOfDate);
        Assert.Equal("Up to date", book.BringUp(LedgerOwner.Take(id)));
        var look = book.Look(LedgerOwner.Take(id));
        var solved = look.State(look.Of(NodeKind.Solve).Single());
        Assert.True(solved.UpToDate, solved.Reason);
        Assert.Single(((MotionValue)look.Runner.Value(solved.Node.Id)!).Contacts);
        Assert.True(look.State(look.Of(NodeKind.Cast).Single()).UpToDate);
        var version = LedgerSnapshot.Read((await db.Versions.SingleAsync()).Entries);
        Assert.Contains(version, n => n.Kind == NodeKind.Markers && n.Entries.Count == 3);
        book.Keep(LedgerOwner.Take(id), new BackToOriginal());
        Assert.Equal(
            "version brought back",
            book.Keep(LedgerOwner.Take(id), new RestoreVersion((await db.Versions.FirstAsync()).Entries)).Summary
        );
    }

    [Fact]
    public async Task A_take_of_two_keeps_both_with_their_prefixes()
    {
        await Upgrade();
        await using var db = CreateDbContext();
        var crouch = await db
            .Takes.Include(t => t.Parts)
                .ThenInclude(p => p.Subject)
            .Include(t => t.Nodes)
            .SingleAsync(t => t.Name.StartsWith("HL_027"));
        Assert.Equal(["Ines", "Tobi"], crouch.Performers.Select(p => p.Prefix));
        Assert.Equal(2, crouch.Nodes.Count(n => n.Kind == NodeKind.Solve));
    }

    [Fact]
    public async Task Cut_off_at_any_moment_it_is_done_by_the_next_start()
    {
        // Half a new database from a start that was killed.
        await File.WriteAllTextAsync(Path.Combine(_folder, "studio.db.new"), "half");
        Assert.True(await Upgrade());
        SqliteConnection.ClearAllPools();
        // Killed between the two moves.
        File.Move(Db, Path.Combine(_folder, "studio.db.new"));
        Assert.True(await Upgrade());
        await using (var db = CreateDbContext())
        {
            Assert.Equal(4, await db.Takes.CountAsync());
        }

        Assert.False(await Upgrade());
    }

    [Fact]
    public async Task A_studio_that_is_older_still_is_refused_with_what_to_do()
    {
        await using (var db = CreateDbContext())
        {
            await db.Database.ExecuteSqlRawAsync("DELETE FROM __EFMigrationsHistory WHERE MigrationId > '20261123165'");
        }

        SqliteConnection.ClearAllPools();
        var size = new FileInfo(Db).Length;
        var e = await Assert.ThrowsAsync<RefusedException>(Upgrade);
        Assert.Contains("start that version once", e.Message, StringComparison.Ordinal);
        Assert.Equal(size, new FileInfo(Db).Length);
    }
}
