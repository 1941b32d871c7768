using Eidolon.Storage;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Api;

/// <summary>Witness videos as the browser plays them, piece by piece.</summary>
public static class WitnessApi
{
    public static void Map(WebApplication app) =>
        app.MapGet("/api/videos/{id:int}", async (int id, EidolonDb db, CancellationToken cancel) =>
            await db.Videos.AsNoTracking().FirstOrDefaultAsync(v => v.Id == id, cancel) is { } v
                ? Results.File(v.Data, v.ContentType, enableRangeProcessing: true)
                : Results.NotFound()
        );
}
