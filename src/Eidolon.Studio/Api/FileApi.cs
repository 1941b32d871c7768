using Eidolon.Storage;
using Eidolon.Storage.Blobs;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Api;

/// <summary>Files of the studio, streamed from the disk: figures, films, exports. Ranges are read as ranges.</summary>
public static class FileApi
{
    private const string Glb = "model/gltf-binary";

    public static void Map(WebApplication app)
    {
        app.MapGet(
            "/files/subjects/{subject:int}/{version:int}.glb",
            async (int subject, int version, EidolonDb db, BlobStore blobs, HttpResponse response, CancellationToken cancel) =>
            {
                var blob = await db
                    .SubjectVersions.AsNoTracking()
                    .Where(v => v.SubjectId == subject && v.Number == version)
                    .Select(v => v.BlobId)
                    .FirstOrDefaultAsync(cancel);
                // A version never changes.
                response.Headers.CacheControl = "private, max-age=31536000, immutable";
                return await Send(db, blobs, blob, Glb, null, cancel);
            }
        );
        app.MapGet("/files/handoffs/{id:int}", async (int id, EidolonDb db, BlobStore blobs, CancellationToken cancel) =>
        {
            var h = await db
                .HandOffs.AsNoTracking()
                .Where(x => x.Id == id)
                .Select(x => new { x.BlobId, x.FileName })
                .FirstOrDefaultAsync(cancel);
            return await Send(
                db,
                blobs,
                h?.BlobId,
                h?.FileName.EndsWith(".glb", StringComparison.Ordinal) == true ? Glb : "text/plain",
                h?.FileName,
                cancel
            );
        });
        app.MapGet("/api/videos/{id:int}", async (int id, EidolonDb db, BlobStore blobs, CancellationToken cancel) =>
        {
            var v = await db
                .Videos.AsNoTracking()
                .Where(x => x.Id == id)
                .Select(x => new { x.BlobId, x.ContentType })
                .FirstOrDefaultAsync(cancel);
            return await Send(db, blobs, v?.BlobId, v?.ContentType ?? "video/mp4", null, cancel);
        });
    }

    private static async Task<IResult> Send(
        EidolonDb db,
        BlobStore blobs,
        int? blob,
        string type,
        string? download,
        CancellationToken cancel
    ) =>
        blob is { } id && await blobs.Find(db, id, cancel) is { } path
            ? Results.File(path, type, download, enableRangeProcessing: true)
            : Results.NotFound("That file is not in the studio.");
}
