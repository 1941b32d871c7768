using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Operations;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Storage.Samples;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>
/// Puts a recording of gloves or of a face beside a take: a stream of its own, next to those that are there. Which one is used the Ledger's entries
/// say; nothing that was recorded or imported is written over.
/// </summary>
public sealed class RideImport(EidolonDb db, DiskRoom room)
{
    /// <summary>Recordings of one kind that a performer may have in a take.</summary>
    private const int Most = 20;

    /// <returns>The operation that uses it, and which of the recordings of its kind it is, from 1.</returns>
    /// <exception cref="RefusedException">The performer is not on the slate.</exception>
    /// <exception cref="InvalidInputException">The table is neither, or cannot be read; nothing is changed.</exception>
    public async Task<(Operation Operation, int Recording)> Put(
        int take,
        int performer,
        byte[] bytes,
        string name,
        CancellationToken cancel = default
    )
    {
        room.Want(bytes.Length);
        if (!await db.Takes.AnyAsync(t => t.Id == take && t.Parts.Any(p => p.SubjectId == performer), cancel))
        {
            throw new RefusedException("this performer is not on the slate of the take (any more)");
        }

        var kind =
            GloveCsv.Is(bytes) ? StreamKind.Gloves
            : FaceCsv.Is(bytes) ? StreamKind.Face
            : throw Neither(name);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var known = await db
            .Streams.Where(s => s.TakeId == take && s.SubjectId == performer && s.Kind == kind)
            .Select(s => s.Name)
            .ToListAsync(cancel);
        var recording = known.Select(StreamNames.RecordingOf).DefaultIfEmpty(0).Max() + 1;
        if (known.Count >= Most)
        {
            throw new RefusedException($"there are {Most} recordings of this kind already: remove one that is not used first");
        }

        var store = new SampleStore(db);
        if (kind == StreamKind.Gloves)
        {
            await store.WriteGloves(take, performer, GloveCsv.Read(bytes, name), cancel, recording);
        }
        else
        {
            await store.WriteFace(take, performer, FaceCsv.Read(bytes, name), cancel, recording);
        }

        await transaction.CommitAsync(cancel);
        return (kind == StreamKind.Gloves ? HandOperations.Fingers : HandOperations.Face, recording);
    }

    /// <summary>Removes a table that was imported beside a take, such as a wrong one. What a device recorded stays.</summary>
    /// <exception cref="RefusedException">It was recorded, or an entry of the Ledger uses it; nothing is changed.</exception>
    public async Task Remove(int take, int stream, CancellationToken cancel = default)
    {
        var row = await db
            .Streams.AsNoTracking()
            .FirstOrDefaultAsync(
                s => s.Id == stream && s.TakeId == take && (s.Kind == StreamKind.Gloves || s.Kind == StreamKind.Face),
                cancel
            )
            ?? throw new RefusedException("that recording is gone");
        var recording = StreamNames.RecordingOf(row.Name);
        var device = row.Kind == StreamKind.Face ? "face" : "gloves";
        if (recording == 1 && await db.Streams.AnyAsync(s => s.TakeId == take && s.Kind == StreamKind.Packets && s.Name == device, cancel))
        {
            throw new RefusedException("this was recorded with the take and stays with it");
        }

        var operation = row.Kind == StreamKind.Face ? HandOperations.Face.Name : HandOperations.Fingers.Name;
        var entries = await db
            .Entries.Where(e =>
                e.On && e.Operation == operation && db.Nodes.Any(n => n.Id == e.NodeId && n.TakeId == take && n.SubjectId == row.SubjectId)
            )
            .Select(e => e.Parameters)
            .ToListAsync(cancel);
        if (entries.Exists(e => Uses(e, row.Kind) == recording))
        {
            throw new RefusedException("this recording is used: choose another one, or undo that entry, first");
        }

        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        await db.Chunks.Where(c => c.StreamId == stream).ExecuteDeleteAsync(cancel);
        await db.Streams.Where(s => s.Id == stream).ExecuteDeleteAsync(cancel);
        await transaction.CommitAsync(cancel);
    }

    /// <summary>The recording that an entry uses; 0 where it uses none.</summary>
    public static int Uses(string parameters, StreamKind kind)
    {
        var p = JsonNode.Parse(parameters) as JsonObject ?? [];
        return kind == StreamKind.Gloves && (string?)p["from"] != "gloves" ? 0 : (int?)p[HandOperations.Recording] ?? 1;
    }

    private static InvalidInputException Neither(string name) =>
        new(name, "line 1", $"it is no table of gloves (units={GloveCsv.Units}) and none of a face (units={FaceCsv.Units})");
}
