using Eidolon.Core;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Opening;

/// <summary>
/// Opens the database of a studio: whole, not of a later version, with the form this version wants. A change of form is made only where one is
/// due, after a copy of the file as it was. The folder must be held (<see cref="StudioFolder"/>).
/// </summary>
public static class StudioDatabase
{
    /// <summary>Copies of former forms that are kept.</summary>
    private const int MostCopies = 2;

    /// <summary>The form that all earlier changes were folded into; a studio must have come as far as this.</summary>
    private const string Base = "20261201020718_FrameNotes";

    /// <param name="path">The database's file; made when it is missing.</param>
    /// <param name="cutOff">The last stop was none: what is on the disk is looked through.</param>
    /// <exception cref="RefusedException">It is damaged or of a later version; says what to do. Nothing was changed.</exception>
    public static async Task Open(EidolonDb db, string path, bool cutOff, Action<string> say, CancellationToken cancel = default)
    {
        var fresh = !File.Exists(path) || new FileInfo(path).Length == 0;
        StudioFolder.Own(path);
        if (!fresh)
        {
            if (cutOff)
            {
                say("looking the database through: the last stop was none");
            }

            await Look(db, path, cutOff, cancel);
        }

        var pending = await Pending(db, path, fresh, cancel);
        if (pending.Count > 0)
        {
            if (!fresh)
            {
                var copy = System.IO.Path.Combine(System.IO.Path.GetDirectoryName(path)!, $"studio-before-{pending[0]}.db");
                say($"the studio gets a new form; a copy as it was is kept: {System.IO.Path.GetFileName(copy)}");
                await CopyRows(db, path, copy, cancel);
                Prune(System.IO.Path.GetDirectoryName(path)!);
            }

            // Nobody else is here: a lock that stands was left by a process that was killed.
            await db.Database.ExecuteSqlRawAsync("DROP TABLE IF EXISTS \"__EFMigrationsLock\"", cancel);
            await db.Database.MigrateAsync(cancel);
        }

        await db.Database.ExecuteSqlRawAsync("PRAGMA journal_mode=WAL;", cancel);
        StudioFolder.Own(path);
    }

    /// <summary>A whole copy of the database as it is now, beside it; there as a whole or not at all.</summary>
    public static async Task Copy(EidolonDb db, string to, CancellationToken cancel = default)
    {
        var part = to + ".part";
        File.Delete(part);
        await db.Database.ExecuteSqlAsync($"VACUUM INTO {part}", cancel);
        File.SetUnixFileMode(part, UnixFileMode.UserRead | UnixFileMode.UserWrite);
        File.Move(part, to, overwrite: true);
    }

    /// <summary>
    /// A copy of every row but the recorded samples, which no change of form touches: a studio of many gigabytes is opened as quickly as a small one.
    /// </summary>
    /// <exception cref="RefusedException">There is no room for it; nothing was changed.</exception>
    private static async Task CopyRows(EidolonDb db, string path, string to, CancellationToken cancel)
    {
        var part = to + ".part";
        File.Delete(part);
        await db.Database.OpenConnectionAsync(cancel);
        try
        {
            var connection = (SqliteConnection)db.Database.GetDbConnection();
            var samples = await Scalar(connection, "SELECT COALESCE(SUM(LENGTH(\"Data\")), 0) FROM \"Chunks\"", cancel);
            var needed = Math.Max(0, new FileInfo(path).Length - samples) + Spare;
            if (new DriveInfo(System.IO.Path.GetDirectoryName(path)!).AvailableFreeSpace is var free && free < needed)
            {
                throw new RefusedException(
                    $"{path} gets a new form, which needs {needed / 1e6:0} MB of room, and there are {free / 1e6:0} MB; nothing was changed. Make room and start again"
                );
            }

            StudioFolder.Own(part);
            await Run(connection, $"ATTACH DATABASE '{part.Replace("'", "''")}' AS copy", cancel);
            try
            {
                foreach (var (name, sql) in await Schema(connection, cancel))
                {
                    await Run(
                        connection,
                        sql.Replace($"CREATE TABLE \"{name}\"", $"CREATE TABLE copy.\"{name}\"", StringComparison.Ordinal),
                        cancel
                    );
                    if (name != "Chunks")
                    {
                        await Run(connection, $"INSERT INTO copy.\"{name}\" SELECT * FROM main.\"{name}\"", cancel);
                    }
                }
            }
            finally
            {
                await Run(connection, "DETACH DATABASE copy", cancel);
            }
        }
        finally
        {
            await db.Database.CloseConnectionAsync();
        }

        File.Move(part, to, overwrite: true);
    }

    /// <summary>Room that is left beside a copy, bytes.</summary>
    private const long Spare = 20_000_000;

    private static async Task<List<(string Name, string Sql)>> Schema(SqliteConnection connection, CancellationToken cancel)
    {
        await using var ask = connection.CreateCommand();
        ask.CommandText = "SELECT name, sql FROM main.sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'";
        await using var rows = await ask.ExecuteReaderAsync(cancel);
        var all = new List<(string, string)>();
        while (await rows.ReadAsync(cancel))
        {
            all.Add((rows.GetString(0), rows.GetString(1)));
        }

        return all;
    }

    private static async Task Run(SqliteConnection connection, string sql, CancellationToken cancel)
    {
        await using var command = connection.CreateCommand();
        command.CommandText = sql;
        await command.ExecuteNonQueryAsync(cancel);
    }

    private static async Task<long> Scalar(SqliteConnection connection, string sql, CancellationToken cancel)
    {
        await using var command = connection.CreateCommand();
        command.CommandText = sql;
        return Convert.ToInt64(await command.ExecuteScalarAsync(cancel), System.Globalization.CultureInfo.InvariantCulture);
    }

    /// <summary>The newest copies stay.</summary>
    private static void Prune(string folder)
    {
        foreach (var old in Directory.GetFiles(folder, "studio-before-*.db").OrderByDescending(File.GetLastWriteTimeUtc).Skip(MostCopies))
        {
            File.Delete(old);
        }
    }

    private static async Task Look(EidolonDb db, string path, bool cutOff, CancellationToken cancel)
    {
        try
        {
            await db.Database.OpenConnectionAsync(cancel);
            var connection = (SqliteConnection)db.Database.GetDbConnection();
            var tables = await Schema(connection, cancel);
            // The samples, most of the file, are checked when they are read.
            foreach (var (name, _) in cutOff ? tables.Where(t => t.Name != "Chunks") : [])
            {
                await using var ask = connection.CreateCommand();
                ask.CommandText = $"PRAGMA quick_check(\"{name}\")";
                if (await ask.ExecuteScalarAsync(cancel) is not "ok" and var said)
                {
                    throw Damaged(path, said as string ?? "nothing can be read");
                }
            }
        }
        catch (SqliteException e) when (e.SqliteErrorCode is 11 or 26)
        {
            throw Damaged(path, e.SqliteErrorCode == 26 ? "it is no database" : "its pages do not fit together");
        }
        finally
        {
            await db.Database.CloseConnectionAsync();
        }
    }

    private static RefusedException Damaged(string path, string what) =>
        new(
            $"{path} is damaged ({what}); nothing was changed. Put the copy of your last backup, or a studio-before-….db "
                + "beside it, in its place, or start an empty studio with --data FOLDER"
        );

    private static async Task<IReadOnlyList<string>> Pending(EidolonDb db, string path, bool fresh, CancellationToken cancel)
    {
        var known = db.Database.GetMigrations().ToList();
        var applied = fresh ? [] : (await db.Database.GetAppliedMigrationsAsync(cancel)).ToList();
        if (applied.Count > 0 && !applied.Contains(Base))
        {
            throw new RefusedException(
                $"{path} was made by an Eidolon of before December 2026; open it once with the version after that one, then with this one"
            );
        }

        // What comes before the base was folded into it.
        if (applied.Except(known).FirstOrDefault(m => string.CompareOrdinal(m, Base) > 0) is { } later)
        {
            throw new RefusedException(
                $"{path} was made by a later Eidolon ({later}); start that one, or choose another folder with --data FOLDER"
            );
        }

        return [.. known.Except(applied)];
    }
}
