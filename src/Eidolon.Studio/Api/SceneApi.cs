using System.Globalization;
using System.Text.Json.Nodes;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Lanes;
using Eidolon.Studio.Services;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Api;

/// <summary>What the Stage and the Lanes of a scene draw.</summary>
public static class SceneApi
{
    public static void Map(WebApplication app)
    {
        var api = app.MapGroup("/api/scenes/{id:int}").AddEndpointFilter<RefusalFilter>();
        api.MapGet("/scene", Scene);
        api.MapGet("/motion/{node:int}", (int id, int node, int? from, int? to, SceneService scenes) =>
            scenes.Open(id).Tracks.FirstOrDefault(t => t.Node.Id == node)?.Motion is { } motion
                ? StageApi.Binary(FigureJson.MotionBytes(motion, from, to))
                : Results.NotFound()
        );
        api.MapGet("/ways", (int id, SceneService scenes) => Results.Json(WayJson.Of(scenes.Open(id).Moving)));
        api.MapGet("/words", (int id, string nodes, SceneService scenes) =>
        {
            // Each a node, or a stretch of one: node:start:end.
            var open = scenes.Open(id);
            var asked = nodes
                .Split(',')
                .Distinct()
                .Select(key =>
                    (
                        Key: key,
                        Parts: key.Split(':')
                            .Select(p => int.TryParse(p, NumberStyles.None, CultureInfo.InvariantCulture, out var n) ? n : -1)
                            .ToArray()
                    )
                )
                .Where(k => k.Parts.All(p => p >= 0) && k.Parts.Length is 1 or 3);
            return Results.Json(
                asked.ToDictionary(
                    k => k.Key,
                    k =>
                        string.Join(
                            ", ",
                            k.Parts is [var node, var start, var end]
                                ? scenes.WordsOf(open, node, start, end)
                                : scenes.WordsOf(open, k.Parts[0])
                        )
                )
            );
        });
        api.MapGet("/moments/{node:int}", (int id, int node, int clip, SceneService scenes) =>
            scenes.Open(id) is var open && open.Tracks.FirstOrDefault(t => t.Node.Id == node) is { } track
                ? Results.Json(Moments(open, track, clip))
                : Results.NotFound()
        );
        api.MapGet("/plan/{node:int}", (int id, int node, PlanFiles plans) =>
        {
            using var archive = new MemoryStream();
            plans.Write(id, node, archive);
            return Results.File(archive.ToArray(), "application/zip", $"plan-{id}-{node}.zip");
        });
        api.MapGet("/places/{node:int}", (int id, int node, SceneService scenes) =>
            scenes.Open(id).Tracks.FirstOrDefault(t => t.Node.Id == node)?.Places is { } places
                ? StageApi.Binary(FigureJson.PlaceBytes(places))
                : Results.NotFound()
        );
    }

    private static JsonObject Moments(OpenScene open, OpenScene.Track track, int clip)
    {
        var (look, from, begin) = SceneService.Moments(open, track, clip);
        return new JsonObject
        {
            ["from"] = from,
            ["step"] = look.Step,
            ["apart"] = new JsonArray([.. look.Apart.Select(d => (JsonNode)Math.Round(d, 1))]),
            ["moments"] = new JsonArray([
                .. look.Moments.Select(m =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["a"] = from + m.A,
                            ["b"] = begin + m.B,
                            ["frames"] = m.Frames,
                            ["millimetres"] = Math.Round(m.DistanceMillimetres, 1),
                            ["supportA"] = m.SupportA,
                            ["supportB"] = m.SupportB,
                        }
                ),
            ]),
        };
    }

    private static IResult Scene(int id, string? step, SceneService scenes, EidolonDb db)
    {
        var open = scenes.Open(id);
        var figures = new JsonArray([
            .. open.Moving.Select(t =>
            {
                var kind = t.Subject.Kind == SubjectKind.Character ? "character" : "performer";
                var samples = $"/api/scenes/{id}/motion/{t.Node.Id}";
                var figure = FigureJson.Figure(
                    kind,
                    t.Name,
                    StageApi.SubjectFile(db, t.Subject.Id) ?? string.Empty,
                    samples,
                    ContentHash.Text(t.Shown),
                    t.Motion!
                );
                figure["node"] = t.Node.Id;
                return (JsonNode)figure;
            }),
        ]);
        var props = new JsonArray([
            .. open
                .Tracks.Where(t => t.Places is not null)
                .Select(t =>
                {
                    var prop = FigureJson.Prop(
                        t.Name,
                        StageApi.BodyOf(db, t.Subject.Id),
                        StageApi.SubjectFile(db, t.Subject.Id),
                        $"/api/scenes/{id}/places/{t.Node.Id}",
                        ContentHash.Text(t.Shown),
                        t.Places!
                    );
                    prop["node"] = t.Node.Id;
                    return (JsonNode)prop;
                }),
        ]);
        var take = open.Scene.TakeId is { } t ? db.Takes.AsNoTracking().Include(x => x.SetPieces).FirstOrDefault(x => x.Id == t) : null;
        return Results.Json(
            new JsonObject
            {
                ["id"] = id,
                ["name"] = open.Scene.Name,
                ["step"] = step,
                ["revision"] = open.Scene.Revision,
                ["state"] = open.State,
                ["page"] = open.State,
                ["job"] = OpenJobs.Of(db.Jobs, LedgerOwner.Scene(id)).Select(j => j.Id).FirstOrDefault(),
                ["frameRate"] = open.FrameRate,
                ["frameCount"] = Math.Max(1, open.FrameCount),
                ["markers"] = new JsonArray(),
                ["links"] = new JsonArray(),
                ["figures"] = figures,
                ["props"] = props,
                ["set"] = take is null ? new JsonArray() : StageApi.SetPieces(take),
                ["figureState"] = open.State,
                ["markerFrames"] = 0,
                ["contacts"] = new JsonArray(),
                ["lanes"] = SceneLanes.Build(open, step ?? "assemble"),
                ["pinned"] = new JsonArray(),
            }
        );
    }
}
