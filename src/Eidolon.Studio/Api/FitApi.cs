using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.Studio.Services;

namespace Eidolon.Studio.Api;

/// <summary>A performer's body among the markers it was measured from, as the page of the fit by hand draws it.</summary>
public static class FitApi
{
    /// <summary>Moves in one sitting at the most: more is another body.</summary>
    private const int MostMoves = 200;

    /// <summary>A centre is moved by so much at a time at the most, metres.</summary>
    private const float Farthest = 0.5f;

    public static void Map(WebApplication app)
    {
        var api = app.MapGroup("/api/performers/{id:int}/fit").AddEndpointFilter<RefusalFilter>();
        api.MapGet("/", (int id, string? moves, string? drag, FitDesk desk) =>
        {
            var sitting = desk.Of(id);
            return Results.Json(Told(sitting, FitDesk.Try(sitting, Moves(moves), DragOf(drag, sitting))));
        });
        api.MapGet("/markers", (int id, FitDesk desk) => StageApi.Binary(Markers(desk.Of(id))));
    }

    /// <summary>Moves as the page sends them back: [{role, x, y, z, alike}].</summary>
    public static IReadOnlyList<BodyByHand.Move> Moves(string? json)
    {
        var list = Read(json) as JsonArray ?? [];
        return list.Count > MostMoves
            ? throw new RefusedException($"more than {MostMoves} moves are another body: measure anew")
            : [.. list.Select(m => Of(m) is var (role, by, alike, _) ? new BodyByHand.Move(role, by, alike) : throw Wrong())];
    }

    private static FitDesk.Drag? DragOf(string? json, FitDesk.Sitting sitting) =>
        Read(json) is not { } d ? null
        : Of(d) is var (role, by, alike, look) && look >= 0 && look < sitting.Frames.Count ? new FitDesk.Drag(role, look, by, alike)
        : throw Wrong();

    private static JsonNode? Read(string? json)
    {
        try
        {
            return string.IsNullOrEmpty(json) ? null : JsonNode.Parse(json);
        }
        catch (JsonException)
        {
            throw Wrong();
        }
    }

    private static (BodyRole Role, System.Numerics.Vector3 By, bool Alike, int Look) Of(JsonNode? m)
    {
        try
        {
            var by = new System.Numerics.Vector3((float)m!["x"]!, (float)m["y"]!, (float)m["z"]!);
            return Enum.TryParse<BodyRole>((string?)m["role"], out var role) && by.Length() <= Farthest
                ? (role, by, (bool?)m["alike"] ?? false, (int?)m["look"] ?? 0)
                : throw Wrong();
        }
        catch (Exception e) when (e is NullReferenceException or InvalidOperationException or FormatException)
        {
            throw Wrong();
        }
    }

    private static RefusedException Wrong() => new("the moves cannot be read");

    private static JsonObject Told(FitDesk.Sitting sitting, FitDesk.Tried tried)
    {
        var s = tried.Body.Skeleton;
        var places = new JsonArray();
        foreach (var pose in tried.Standing.Poses)
        {
            foreach (var p in BodyByHand.World(tried.Body, pose).Places)
            {
                places.Add((JsonNode)Math.Round(p.X, 4));
                places.Add((JsonNode)Math.Round(p.Y, 4));
                places.Add((JsonNode)Math.Round(p.Z, 4));
            }
        }

        var was = BoneSize.Of(sitting.Body.Skeleton).ToDictionary(b => b.Name, StringComparer.Ordinal);
        return new JsonObject
        {
            ["moves"] = new JsonArray([
                .. tried.Moves.Select(m =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["role"] = m.Role.ToString(),
                            ["x"] = Math.Round(m.By.X, 5),
                            ["y"] = Math.Round(m.By.Y, 5),
                            ["z"] = Math.Round(m.By.Z, 5),
                            ["alike"] = m.Alike,
                        }
                ),
            ]),
            ["frames"] = new JsonArray([.. sitting.Frames.Select(f => (JsonNode)f)]),
            ["joints"] = new JsonArray([
                .. s.Joints.Select(j =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["role"] = j.Role.ToString(),
                            ["parent"] = j.Parent,
                            ["side"] = BodyRoles.Side(j.Role!.Value).ToString(),
                        }
                ),
            ]),
            ["places"] = places,
            ["markers"] = sitting.Markers.MarkerCount,
            ["meanMillimetres"] = Math.Round(tried.Standing.Mean * 1000, 2),
            ["wasMillimetres"] = Math.Round(sitting.Start.Mean * 1000, 2),
            ["worst"] = new JsonArray([
                .. tried
                    .Standing.Worst.Take(6)
                    .Select(w => (JsonNode)new JsonObject { ["marker"] = w.Marker, ["millimetres"] = Math.Round(w.Metres * 1000, 1) }),
            ]),
            ["bones"] = new JsonArray([
                .. BoneSize
                    .Of(s)
                    .Select(b =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["bone"] = b.Name,
                                ["left"] = Rounded(b.Left),
                                ["right"] = Rounded(b.Right),
                                ["changed"] =
                                    was.TryGetValue(b.Name, out var w)
                                    && (Rounded(w.Left) != Rounded(b.Left) || Rounded(w.Right) != Rounded(b.Right)),
                            }
                    ),
            ]),
            ["said"] = new JsonArray([.. tried.Said.Select(t => (JsonNode)t)]),
        };
    }

    private static double? Rounded(double? metres) => metres is { } m ? Math.Round(m * 1000) : null;

    /// <summary>Markers of every look, [look × markers × 3], float32, metres; NaN where hidden.</summary>
    private static byte[] Markers(FitDesk.Sitting sitting)
    {
        var n = sitting.Markers.MarkerCount;
        var flat = new System.Numerics.Vector3[sitting.Frames.Count * n];
        for (var k = 0; k < sitting.Frames.Count; k++)
        {
            sitting.Markers.At(sitting.Frames[k]).CopyTo(flat.AsSpan(k * n));
        }

        return System.Runtime.InteropServices.MemoryMarshal.AsBytes<System.Numerics.Vector3>(flat).ToArray();
    }
}
