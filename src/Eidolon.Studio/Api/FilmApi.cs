using System.Globalization;
using System.Runtime.InteropServices;
using System.Text.Json.Nodes;
using Eidolon.Devices;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Storage.Samples;
using Eidolon.Studio.Services;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Api;

/// <summary>Films of a performer: what is known of each, its points with where the body has them, and its picture.</summary>
public static class FilmApi
{
    public static void Map(RouteGroupBuilder take)
    {
        take.MapGet("/films/{node:int}", (int id, int node, TakeService takes) =>
            View(takes, id, node) is { } view ? Results.Json(About(view)) : Results.NotFound()
        );
        take.MapGet("/films/{node:int}/{film:int}", (int id, int node, int film, TakeService takes) =>
            View(takes, id, node) is { } view && film >= 0 && film < view.Films.Count
                ? StageApi.Binary(view.Samples(film))
                : Results.NotFound()
        );
        take.MapGet("/films/{node:int}/{film:int}/picture", Picture);
    }

    private static JsonArray About(FilmView view)
    {
        var about = view.About();
        for (var k = 0; k < about.Count; k++)
        {
            // On the Stage a camera has the number it has in the list of films.
            about[k]!["drawn"] = view.Cameras[k].IsPlaced
                ? CameraDrawing.Of(view.Cameras[k], (k + 1).ToString(CultureInfo.InvariantCulture))
                : null;
        }

        return about;
    }

    /// <summary>Strokes that draw the film's pictures, float32, frame by frame; empty where there is no picture.</summary>
    private static IResult Picture(int id, int node, int film, EidolonDb db)
    {
        var subject = db.Nodes.AsNoTracking().Where(n => n.Id == node && n.TakeId == id).Select(n => n.SubjectId).FirstOrDefault();
        var name = StreamNames.Picture(subject, film + 1);
        return
            db.Streams.AsNoTracking().FirstOrDefault(s => s.TakeId == id && s.Name == name && s.Kind == StreamKind.FilmPicture)
                is { } stream
            ? StageApi.Binary(
                MemoryMarshal
                    .AsBytes<float>(new SampleStore(db).ReadPicture(stream, WitnessPoints.Strokes * WitnessPoints.StrokeValues, name))
                    .ToArray()
            )
            : StageApi.Binary([]);
    }

    private static FilmView? View(TakeService takes, int id, int node) =>
        takes.Open(id).Performers.FirstOrDefault(r => r.Node.Id == node) is { } role ? FilmView.Of(role) : null;
}
