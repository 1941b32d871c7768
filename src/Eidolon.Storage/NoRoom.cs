using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage;

/// <summary>The disk is full: how that is told from other faults, and what is done without then.</summary>
public static class NoRoom
{
    /// <summary>SQLITE_FULL.</summary>
    private const int DatabaseFull = 13;

    /// <summary>ENOSPC.</summary>
    private const int DiskFull = 28;

    public static bool Is(Exception? fault) =>
        fault switch
        {
            SqliteException { SqliteErrorCode: DatabaseFull } => true,
            DbUpdateException update => Is(update.InnerException),
            IOException io => io.HResult == DiskFull || io.Message.Contains("No space left", StringComparison.Ordinal),
            _ => false,
        };

    /// <summary>The fault may be over in a moment: no room, a database that is busy or locked, a disk that does not answer.</summary>
    public static bool MayPass(Exception? fault) =>
        Is(fault)
        || fault switch
        {
            SqliteException { SqliteErrorCode: 5 or 6 or 10 or 14 } => true,
            DbUpdateException update => MayPass(update.InnerException),
            IOException or TimeoutException or OperationCanceledException => true,
            _ => false,
        };

    /// <summary>Keeps something that can be made again at any time; without room it is not kept, and nothing else happens.</summary>
    public static void Spare(Action keep)
    {
        try
        {
            keep();
        }
        catch (Exception e) when (Is(e))
        {
            // It will be made again when it is asked for.
        }
    }
}
