using Eidolon.Core;
using Eidolon.Core.Formats.Csv;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>Puts a recording of gloves or of a face beside a take. Another one of the same kind takes the place of the first.</summary>
public sealed class RideImport(EidolonDb db, DiskRoom room)
{
    /// <exception cref="RefusedException">The performer is not on the slate.</exception>
    /// <exception cref="InvalidInputException">The table is neither, or cannot be read; nothing is changed.</exception>
    public async Task Put(int take, int performer, byte[] bytes, string name, CancellationToken cancel = default)
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
        await db.Streams.Where(s => s.TakeId == take && s.SubjectId == performer && s.Kind == kind).ExecuteDeleteAsync(cancel);
        var store = new SampleStore(db);
        if (kind == StreamKind.Gloves)
        {
            await store.WriteGloves(take, performer, GloveCsv.Read(bytes, name), cancel);
        }
        else
        {
            await store.WriteFace(take, performer, FaceCsv.Read(bytes, name), cancel);
        }

        await transaction.CommitAsync(cancel);
    }

    private static InvalidInputException Neither(string name) =>
        new(name, "line 1", $"it is no table of gloves (units={GloveCsv.Units}) and none of a face (units={FaceCsv.Units})");
}
