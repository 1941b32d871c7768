using Eidolon.Core;
using Eidolon.Storage.Blobs;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Upgrade;

/// <summary>
/// Opens a studio of the version before: everything is written into a new database beside the old one; only when it is whole they trade places. The
/// old one stays as a backup. Cut off at any moment, the next start begins or ends it.
/// </summary>
public static class StudioUpgrade
{
    /// <summary>What the old database is called afterwards.</summary>
    public const string Backup = "studio-before-foundation.db";

    private const string LastBefore = "20261123175414_TakeQuality";
    private const string Fresh = "studio.db.new";

    /// <returns>True when a studio was brought up.</returns>
    /// <exception cref="RefusedException">The studio is older than the version before; says what to do.</exception>
    public static async Task<bool> Run(string folder, BlobStore blobs, Action<string> say, CancellationToken cancel = default)
    {
        var (path, fresh, backup) = (Path.Combine(folder, "studio.db"), Path.Combine(folder, Fresh), Path.Combine(folder, Backup));
        if (!File.Exists(path) && File.Exists(fresh) && File.Exists(backup))
        {
            // Cut off between the two moves.
            File.Move(fresh, path);
            return true;
        }

        if (!File.Exists(path) || History(path) is not { Length: > 0 } history || !history.Contains("20261123075351_First"))
        {
            return false;
        }

        if (!history.Contains(LastBefore))
        {
            throw new RefusedException($"{path}: this studio is older than the version before; start that version once, then this one");
        }

        say("bringing the studio to the new form; the old one stays as a backup");
        foreach (var rest in new[] { fresh, fresh + "-wal", fresh + "-shm" })
        {
            File.Delete(rest);
        }

        Settle(path);
        await Write(path, fresh, blobs, cancel);
        SqliteConnection.ClearAllPools();
        Settle(fresh);
        File.Move(path, backup, overwrite: true);
        File.Delete(path + "-wal");
        File.Delete(path + "-shm");
        File.Move(fresh, path);
        return true;
    }

    private static async Task Write(string path, string fresh, BlobStore blobs, CancellationToken cancel)
    {
        var options = new DbContextOptionsBuilder<EidolonDb>().UseSqlite($"Data Source={fresh};Pooling=False").Options;
        using var old = new OldStudio(path);
        await using var db = new EidolonDb(options);
        await db.Database.MigrateAsync(cancel);
        await new StudioConversion(old, db, blobs).Run(path, cancel);
    }

    private static string[] History(string path)
    {
        using var connection = new SqliteConnection($"Data Source={path};Pooling=False");
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = "SELECT count(*) FROM sqlite_master WHERE name = '__EFMigrationsHistory'";
        if ((long)command.ExecuteScalar()! == 0)
        {
            return [];
        }

        command.CommandText = "SELECT MigrationId FROM __EFMigrationsHistory";
        using var reader = command.ExecuteReader();
        var result = new List<string>();
        while (reader.Read())
        {
            result.Add(reader.GetString(0));
        }

        return [.. result];
    }

    /// <summary>Everything of a database in its one file.</summary>
    private static void Settle(string path)
    {
        using var connection = new SqliteConnection($"Data Source={path};Pooling=False");
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = "PRAGMA wal_checkpoint(TRUNCATE); PRAGMA journal_mode=DELETE;";
        command.ExecuteNonQuery();
    }
}
