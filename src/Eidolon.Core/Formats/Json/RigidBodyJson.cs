using System.Numerics;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Formats.Json;

/// <summary>A prop's markers against its pivot as JSON [[x, y, z], …], metres.</summary>
public static class RigidBodyJson
{
    /// <summary>Reads a prop.</summary>
    /// <exception cref="InvalidInputException">A marker has no place or no name.</exception>
    public static RigidBody Read(string json, string name) => JsonInput.Read(Encoding.UTF8.GetBytes(json), name, root => From(root, name));

    private static RigidBody From(JsonElement root, string name)
    {
        if (root.ValueKind != JsonValueKind.Array)
        {
            throw new InvalidInputException(name, "markers", "a list of places [x, y, z] is expected");
        }

        try
        {
            return new RigidBody(name, [.. root.EnumerateArray().Select((m, i) => JsonInput.Vector(m, $"[{i}]", name))]);
        }
        catch (Exception e) when (e is ArgumentException or RefusedException)
        {
            throw new InvalidInputException(name, "markers", e.Message, e);
        }
    }

    /// <summary>Writes what <see cref="Read"/> reads.</summary>
    public static string Write(RigidBody body) =>
        new JsonArray([.. body.Markers.Select(m => (JsonNode)new JsonArray(Round(m.X), Round(m.Y), Round(m.Z)))]).ToJsonString();

    private static double Round(float v) => Math.Round(v, 6);
}
