using System.Net.Sockets;
using Eidolon.Core;
using Eidolon.Storage;
using Microsoft.AspNetCore.Connections;
using Microsoft.Data.Sqlite;

namespace Eidolon.Studio;

/// <summary>Why the studio could not start, in one line that says what to do.</summary>
internal static class StartFaults
{
    /// <summary>Null for a fault nobody can do anything about from outside: it is shown as it is.</summary>
    public static string? Words(Exception fault) =>
        fault switch
        {
            RefusedException refused => refused.Message,
            SocketException { SocketErrorCode: SocketError.AddressAlreadyInUse } or IOException { InnerException: AddressInUseException } =>
                "the port is in use; stop what uses it, or choose another with --port N (0 for any free one)",
            SqliteException { SqliteErrorCode: 8 } =>
                "the database cannot be written; give yourself the right to, or choose another folder with --data FOLDER",
            SqliteException { SqliteErrorCode: 11 or 26 } =>
                "the database is damaged; put a copy in its place, or choose another folder with --data FOLDER",
            SocketException { SocketErrorCode: SocketError.AccessDenied } => "the port is not for everybody; choose another with --port N",
            UnauthorizedAccessException denied =>
                $"{denied.Message} Give yourself the right to, or choose another folder with --data FOLDER",
            _ when NoRoom.Is(fault) => "the disk is full; make room and start again",
            _ => null,
        };
}
