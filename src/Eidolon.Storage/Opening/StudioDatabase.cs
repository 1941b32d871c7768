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
                await Copy(db, copy, cancel);
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

    private static async Task Look(EidolonDb db, string path, bool cutOff, CancellationToken cancel)
    {
        try
        {
            await db.Database.OpenConnectionAsync(cancel);
            await using var ask = db.Database.GetDbConnection().CreateCommand();
            ask.CommandText = cutOff ? "PRAGMA quick_check(1)" : "SELECT 'ok' FROM (SELECT count(*) FROM sqlite_master)";
            var said = await ask.ExecuteScalarAsync(cancel) as string ?? "nothing can be read";
            if (said != "ok")
            {
                throw Damaged(path, said);
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
        if (applied.Except(known).FirstOrDefault() is { } later)
        {
            throw new RefusedException(
                $"{path} was made by a later Eidolon ({later}); start that one, or choose another folder with --data FOLDER"
            );
        }

        return [.. known.Except(applied)];
    }
}
