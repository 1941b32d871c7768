using System.Runtime.InteropServices;
using System.Text.Json.Nodes;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Markers;
using Eidolon.Core.Optical;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.Storage;
using Eidolon.Storage.Library;
using Eidolon.Studio.Live;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Api;

/// <summary>What the live Stage draws besides the frames: cameras, coverage of the floor, the figures and props that are followed.</summary>
public static class LiveApi
{
    public static void Map(WebApplication app)
    {
        app.MapGet("/api/live/scene", Scene);
        app.MapGet("/api/live/witness/{camera:int}", (int camera, WitnessCheck witness) =>
            Results.Bytes(MemoryMarshal.AsBytes<float>(witness.Latest(camera - 1)).ToArray(), "application/octet-stream")
        );
        app.MapGet("/api/live/field", (SuitCheck suit) => Results.Json(
                new
                {
                    trace = suit.Trace,
                    spots = suit.Spots.Select(s => new[] { s.X, s.Z, s.Field }),
                    earth = SuitSensors.UsualField,
                }
            ));
        app.MapGet("/api/live/pictures", (LiveStage stage) =>
            Results.Json(stage.Pictures.Select(p => p is { } x ? new { u = x.U, v = x.V } : null))
        );
        app.MapGet("/files/cameras.json", async (EidolonDb db, CancellationToken cancel) =>
            await db.Calibrations.AsNoTracking().OrderByDescending(c => c.Id).Select(c => c.Cameras).FirstOrDefaultAsync(cancel) is { } json
                ? Results.File(System.Text.Encoding.UTF8.GetBytes(json), "application/json", "cameras.json")
                : Results.NotFound()
        );
    }

    private static IResult Scene(LiveStage stage, LiveCast cast, SubjectLibrary library, StageSettings settings, EidolonDb db)
    {
        var ring = stage.Ring;
        var set = SetOf(db);
        return Results.Json(
            new JsonObject
            {
                ["slots"] = LiveStage.Slots,
                ["cameras"] = new JsonArray([.. (ring?.Cameras ?? []).Select(c => (JsonNode)CameraDrawing.Of(c, c.Name))]),
                ["cells"] = ring is null
                    ? []
                    : new JsonArray([
                        .. FloorCoverage
                            .Of(ring, settings.Ring.VolumeX, settings.Ring.VolumeZ)
                            .Select(c => (JsonNode)new JsonArray(Math.Round(c.X, 2), Math.Round(c.Z, 2), c.Cameras)),
                    ]),
                ["bodies"] = new JsonArray([
                    .. stage
                        .Performers.Select(id => (Id: id, Known: library.Known(id)))
                        .Where(p => p.Known is not null)
                        .Select(p => Body(db, p.Id, p.Known!.Performer, stage.Part, set)),
                ]),
                ["characters"] = new JsonArray([.. stage.Played.Select(p => Character(db, p.Performer, p.Character, p.Rig))]),
                ["props"] = new JsonArray([
                    .. cast.Props()
                        .Select(p =>
                            (JsonNode)
                                new JsonObject
                                {
                                    ["name"] = p.Body.Name,
                                    ["model"] = StageApi.SubjectFile(db, p.Id),
                                    ["markers"] = new JsonArray([.. p.Body.Markers.Select(m => (JsonNode)new JsonArray(m.X, m.Y, m.Z))]),
                                }
                        ),
                ]),
            }
        );
    }

    private static JsonNode Character(EidolonDb db, int performer, int character, Skeleton rig)
    {
        string Name(int id) => db.Subjects.AsNoTracking().Where(s => s.Id == id).Select(s => s.Name).FirstOrDefault() ?? string.Empty;
        var figure = FigureJson.Figure(
            "character",
            Name(character),
            StageApi.SubjectFile(db, character) ?? string.Empty,
            string.Empty,
            string.Empty,
            new Motion(rig, 120, 1)
        );
        figure["by"] = Name(performer);
        return figure;
    }

    private static JsonNode Body(EidolonDb db, int id, Performer performer, BodyPart part, MarkerSet set)
    {
        var markers = performer.Markers.Where(m => part.Has(performer.Skeleton[m.Joint].Role!.Value)).Select(m => m.Name).ToList();
        return new JsonObject
        {
            ["figure"] = FigureJson.Figure(
                "performer",
                performer.Name,
                StageApi.SubjectFile(db, id) ?? string.Empty,
                string.Empty,
                string.Empty,
                new Motion(performer.Skeleton, 120, 1)
            ),
            ["markers"] = new JsonArray([
                .. markers.Select(m => (JsonNode)new JsonObject { ["name"] = m, ["side"] = StageApi.SideOf(set, m) }),
            ]),
            ["links"] = new JsonArray([
                .. set
                    .Links.Select(l => (A: markers.IndexOf(l.A), B: markers.IndexOf(l.B)))
                    .Where(l => l.A >= 0 && l.B >= 0)
                    .Select(l => (JsonNode)new JsonArray(l.A, l.B)),
            ]),
        };
    }

    /// <summary>The production's marker set; an empty one where none is chosen.</summary>
    private static MarkerSet SetOf(EidolonDb db)
    {
        var id = db.Productions.AsNoTracking().OrderBy(p => p.Id).Select(p => p.MarkerSetId).FirstOrDefault();
        var json = db.MarkerSets.AsNoTracking().Where(s => s.Id == id).Select(s => s.Json).FirstOrDefault();
        return json is null ? new MarkerSet("none", [], []) : MarkerSetJson.Read(System.Text.Encoding.UTF8.GetBytes(json), "marker set");
    }
}
