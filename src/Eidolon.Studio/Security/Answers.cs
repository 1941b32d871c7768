using Eidolon.Core;
using Eidolon.Storage;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Security;

/// <summary>What the studio answers when something cannot be done: which number, and the sentence for the person.</summary>
internal static class Answers
{
    /// <summary>SQLite: a name or a row that something else points to.</summary>
    private const int Constraint = 19;

    /// <summary>The number of an answer to a request that ended in an exception; 500 for a fault of ours.</summary>
    public static int CodeOf(Exception fault) =>
        fault switch
        {
            BadHttpRequestException bad => bad.StatusCode,
            RefusedException or InvalidInputException => StatusCodes.Status400BadRequest,
            DamagedDataException => StatusCodes.Status409Conflict,
            DbUpdateException { InnerException: SqliteException { SqliteErrorCode: Constraint } } => StatusCodes.Status409Conflict,
            _ when NoRoom.Is(fault) => StatusCodes.Status507InsufficientStorage,
            _ => StatusCodes.Status500InternalServerError,
        };

    /// <summary>The sentence for the person; null where none was made for them.</summary>
    public static string? WordsOf(Exception? fault) =>
        fault switch
        {
            RefusedException or InvalidInputException or DamagedDataException => fault.Message,
            DbUpdateException { InnerException: SqliteException { SqliteErrorCode: Constraint } } =>
                "What this names is gone, or the name is taken. Nothing was changed.",
            _ when NoRoom.Is(fault) => "The disk is full. Nothing was changed; make room and do it again.",
            _ => null,
        };
}
