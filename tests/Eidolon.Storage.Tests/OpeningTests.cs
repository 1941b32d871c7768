using Eidolon.Core;
using Eidolon.Storage.Opening;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Tests;

/// <summary>Opening a studio's folder and database after whatever happened to them.</summary>
public sealed class OpeningTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("eidolon-opening").FullName;

    private string Path => System.IO.Path.Combine(_folder, "studio.db");

    private EidolonDb Db() => new(new DbContextOptionsBuilder<EidolonDb>().UseSqlite($"Data Source={Path};Pooling=False").Options);

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private async Task<List<string>> Open(bool cutOff = false)
    {
        var said = new List<string>();
        await using var db = Db();
        await StudioDatabase.Open(db, Path, cutOff, said.Add).WaitAsync(TimeSpan.FromSeconds(60));
        return said;
    }

    /// <summary>A studio of the form before this one, with a production in it.</summary>
    private async Task Before()
    {
        await using var db = Db();
        await db.Database.MigrateAsync("20261201020718_FrameNotes");
        db.Productions.Add(new Model.Production { Name = "Harbour Lights" });
        await db.SaveChangesAsync();
    }

    [Fact]
    public void Tables_are_made_as_the_model_says()
    {
        using var db = Db();
        Assert.False(db.Database.HasPendingModelChanges(), "the model was changed and no migration says how");
    }

    [Fact]
    public async Task What_a_studio_keeps_is_its_owners_alone_and_a_copy_is_whole_or_not_there()
    {
        const UnixFileMode own = UnixFileMode.UserRead | UnixFileMode.UserWrite;
        var inside = System.IO.Path.Combine(_folder, "studio");
        Directory.CreateDirectory(inside);
        File.SetUnixFileMode(inside, own | UnixFileMode.UserExecute | UnixFileMode.OtherRead);
        using (var folder = new StudioFolder(inside))
        {
            folder.Hold();
            folder.Hold();
            Assert.Equal(own | UnixFileMode.UserExecute, File.GetUnixFileMode(inside));
        }

        Assert.Empty(await Open());
        Assert.Equal(own, File.GetUnixFileMode(Path));
        Assert.Equal("looking the database through: the last stop was none", Assert.Single(await Open(cutOff: true)));
        // A copy that was cut off before does not stand in the way, and nothing of it is left.
        var copy = System.IO.Path.Combine(_folder, "copy.db");
        File.WriteAllText(copy + ".part", "half of it");
        await using var db = Db();
        await StudioDatabase.Copy(db, copy);
        Assert.Equal(own, File.GetUnixFileMode(copy));
        Assert.False(File.Exists(copy + ".part"));
        await StudioDatabase.Copy(db, copy);
        Assert.True(new FileInfo(copy).Length > 10_000);
    }

    [Fact]
    public async Task A_change_of_form_is_made_after_a_copy_and_only_when_one_is_due()
    {
        await Before();
        Assert.Contains(await Open(), s => s.Contains("a copy as it was", StringComparison.Ordinal));
        await using (var db = Db())
        {
            Assert.Equal("Harbour Lights", (await db.Productions.SingleAsync()).Name);
        }

        var copy = Directory.GetFiles(_folder, "studio-before-*.db").Single();
        await using (var old = new SqliteConnection($"Data Source={copy};Pooling=False"))
        {
            await old.OpenAsync();
            var ask = old.CreateCommand();
            ask.CommandText = "SELECT count(*) || (SELECT Name FROM Productions) FROM pragma_table_info('Jobs') WHERE name = 'Starts'";
            Assert.Equal("0Harbour Lights", await ask.ExecuteScalarAsync());
        }

        var written = File.GetLastWriteTimeUtc(copy);
        Assert.Empty(await Open());
        Assert.Equal(written, File.GetLastWriteTimeUtc(copy));
    }

    [Fact]
    public async Task A_lock_that_a_killed_change_of_form_left_is_cleared()
    {
        await Before();
        await using (var db = Db())
        {
            await db.Database.ExecuteSqlRawAsync(
                "CREATE TABLE IF NOT EXISTS \"__EFMigrationsLock\" (Id INTEGER PRIMARY KEY, Timestamp TEXT NOT NULL); "
                    + "INSERT INTO \"__EFMigrationsLock\" VALUES (1, '2026-11-01')"
            );
        }

        await Open(cutOff: true);
        await using var after = Db();
        Assert.Empty(await after.Database.GetPendingMigrationsAsync());
    }

    [Fact]
    public async Task A_studio_of_a_later_version_is_left_as_it_is()
    {
        await Open();
        await using (var db = Db())
        {
            await db.Database.ExecuteSqlRawAsync("INSERT INTO \"__EFMigrationsHistory\" VALUES ('20991231000000_Later', '99')");
        }

        var e = await Assert.ThrowsAsync<RefusedException>(() => Open());
        Assert.Contains("later Eidolon", e.Message, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_file_that_is_no_database_is_left_as_it_is()
    {
        var bytes = new byte[8192];
        new Random(4).NextBytes(bytes);
        await File.WriteAllBytesAsync(Path, bytes);
        var e = await Assert.ThrowsAsync<RefusedException>(() => Open());
        Assert.Contains("damaged", e.Message, StringComparison.Ordinal);
        Assert.Equal(bytes, await File.ReadAllBytesAsync(Path));
    }

    [Fact]
    public async Task Pages_that_do_not_fit_together_are_found_after_a_stop_that_was_none()
    {
        await Open();
        await using (var db = Db())
        {
            await db.Database.ExecuteSqlRawAsync("PRAGMA journal_mode=DELETE;");
        }

        await using (var file = new FileStream(Path, FileMode.Open, FileAccess.ReadWrite))
        {
            // Everything but the first pages, which tell what there is.
            file.Position = 4096 * 3;
            var noise = new byte[file.Length - file.Position];
            new Random(5).NextBytes(noise);
            await file.WriteAsync(noise);
        }

        var e = await Assert.ThrowsAsync<RefusedException>(() => Open(cutOff: true));
        Assert.Contains("damaged", e.Message, StringComparison.Ordinal);
    }

    [Fact]
    public void One_process_holds_a_folder_and_knows_how_the_one_before_ended()
    {
        var first = new StudioFolder(_folder);
        first.Hold();
        Assert.False(first.CutOff);
        var e = Assert.Throws<RefusedException>(() => new StudioFolder(_folder).Hold());
        Assert.Contains("another Eidolon", e.Message, StringComparison.Ordinal);
        // As a kill would leave it: what stands in the file says that nobody let go.
        var left = File.Exists(System.IO.Path.Combine(_folder, "lock"));
        first.Dispose();
        Assert.True(left);
        File.WriteAllText(System.IO.Path.Combine(_folder, "lock"), "in use by process 1\n");
        using var second = new StudioFolder(_folder);
        second.Hold();
        Assert.True(second.CutOff);
    }

    [Fact]
    public void A_folder_that_cannot_be_made_says_what_to_do()
    {
        var e = Assert.Throws<RefusedException>(() => new StudioFolder("/proc/eidolon-studio").Hold());
        Assert.Contains("--data", e.Message, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Only_the_owner_may_read()
    {
        Directory.CreateDirectory(
            _folder,
            UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute | UnixFileMode.OtherRead
        );
        using var folder = new StudioFolder(_folder);
        folder.Hold();
        await Open();
        const UnixFileMode own = UnixFileMode.UserRead | UnixFileMode.UserWrite;
        Assert.Equal(own | UnixFileMode.UserExecute, File.GetUnixFileMode(_folder));
        Assert.Equal(own, File.GetUnixFileMode(Path));
    }
}
