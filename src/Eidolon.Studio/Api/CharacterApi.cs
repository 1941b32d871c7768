using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Characters.Preparing;
using Eidolon.Core.Skeletons;
using Eidolon.Storage.Library;

namespace Eidolon.Studio.Api;

/// <summary>A character while it is prepared, as the Stage draws it: its file as proposed, its joints as they came and as proposed.</summary>
public static class CharacterApi
{
    public static void Map(WebApplication app)
    {
        var api = app.MapGroup("/api/characters/{id:int}").AddEndpointFilter<RefusalFilter>();
        api.MapGet("/joints", (int id, SubjectLibrary library) =>
            library.Prepare(id) is { } now ? Results.Json(Joints(now.Made)) : Results.NotFound()
        );
        api.MapGet("/figure.glb", (int id, SubjectLibrary library) =>
            library.Prepare(id) is { } now ? Results.Bytes(now.File.Write(now.Made), "model/gltf-binary") : Results.NotFound()
        );
        api.MapGet("/weights", (int id, SubjectLibrary library) =>
            library.Weights(id) is var (skin, weights)
                ? Results.Bytes(WeightBytes.Whole(skin, weights), "application/octet-stream")
                : Results.NotFound()
        );
    }

    private static JsonObject Joints(PreparedCharacter made)
    {
        var s = made.Came;
        return new JsonObject
        {
            ["height"] = Math.Round(made.Top - made.Lowest, 3),
            ["moved"] = !ReferenceEquals(made.Proposed, made.Came),
            ["joints"] = new JsonArray([
                .. s.Joints.Select(
                    (joint, j) =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["name"] = joint.Name,
                                ["parent"] = joint.Parent,
                                ["role"] = joint.Role?.ToString(),
                                ["side"] = joint.Role is { } r ? BodyRoles.Side(r).ToString() : "N",
                                ["asked"] = joint.Role is { } q && made.Sheet.Asked.Any(a => a.Role == q),
                                ["finger"] = joint.Role is { } f && BodyRoles.IsFinger(f),
                                ["came"] = Vector(s.RestPositions[j]),
                                ["at"] = Vector(made.Proposed.RestPositions[j]),
                            }
                ),
            ]),
        };
    }

    private static JsonArray Vector(Vector3 v) => [Math.Round(v.X, 4), Math.Round(v.Y, 4), Math.Round(v.Z, 4)];
}
