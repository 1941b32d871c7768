using System.Text.Json.Nodes;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;
using Eidolon.Studio.Services;

namespace Eidolon.Studio.Api;

/// <summary>Two solves of a performance as the two Stages of the page draw them.</summary>
public static class CompareApi
{
    public static void Map(RouteGroupBuilder take)
    {
        take.MapGet("/compare/{node:int}", About);
        take.MapGet(
            "/compare/{node:int}/samples",
            (int id, int node, string a, string b, string lay, string which, CompareDesk desk, CancellationToken cancel) =>
                desk.Pair(id, node, a, b, lay, cancel) is var pair && which == "a"
                    ? StageApi.Binary(FigureJson.MotionBytes(pair.A.Motion))
                    : StageApi.Binary(FigureJson.MotionBytes(pair.Laid()))
        );
        take.MapGet(
            "/compare/{node:int}/figure",
            (int id, int node, string a, string b, string lay, string which, CompareDesk desk, CancellationToken cancel) =>
            {
                var pair = desk.Pair(id, node, a, b, lay, cancel);
                return Results.File(TakeImport.Figure((which == "a" ? pair.A : pair.B).Motion, "figure"), "model/gltf-binary");
            }
        );
    }

    private static IResult About(int id, int node, string a, string b, string lay, CompareDesk desk, CancellationToken cancel)
    {
        var pair = desk.Pair(id, node, a, b, lay, cancel);
        JsonObject Figure(string which, SolveStates.Found of, Motion motion)
        {
            var query = $"a={Uri.EscapeDataString(a)}&b={Uri.EscapeDataString(b)}&lay={lay}&which={which}";
            var root = $"/api/takes/{id}/compare/{node}";
            return FigureJson.Figure(
                "solve",
                $"{which.ToUpperInvariant()}, {of.Choice.Name}",
                $"{root}/figure?{query}",
                $"{root}/samples?{query}",
                ContentHash.Text(of.Content),
                motion
            );
        }

        return Results.Json(
            new JsonObject
            {
                ["frameRate"] = pair.A.Motion.FrameRate,
                ["frameCount"] = pair.A.Motion.FrameCount,
                ["worstFrame"] = pair.WorstFrame,
                ["figures"] = new JsonArray(Figure("a", pair.A, pair.A.Motion), Figure("b", pair.B, pair.Laid())),
                ["lanes"] = pair.Lanes(),
                ["set"] = StageApi.SetPieces(pair.A.Open.Take),
            }
        );
    }
}
