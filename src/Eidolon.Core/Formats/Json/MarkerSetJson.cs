using System.Numerics;
using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Formats.Json;

/// <summary>Marker set JSON as in the command line's contract.</summary>
public static class MarkerSetJson
{
    /// <summary>Reads a marker set.</summary>
    /// <exception cref="InvalidInputException">A marker or link is wrong; says which.</exception>
    public static MarkerSet Read(byte[] bytes, string file) => JsonInput.Read(bytes, file, root => From(root, file));

    private static MarkerSet From(JsonElement root, string file)
    {
        var markers = new List<MarkerDefinition>();
        var i = 0;
        foreach (var m in JsonInput.Property(root, "markers", JsonValueKind.Array, "markers", file).EnumerateArray())
        {
            var place = $"markers[{i++}]";
            var name = JsonInput.Property(m, "name", JsonValueKind.String, place, file).GetString()!;
            var segment = JsonInput.Property(m, "segment", JsonValueKind.String, place, file).GetString()!;
            if (name.Length == 0 || markers.Any(x => x.Name == name))
            {
                throw new InvalidInputException(file, place, name.Length == 0 ? "the name is empty" : $"two markers are called '{name}'");
            }

            if (!Enum.TryParse<BodyRole>(segment, ignoreCase: true, out var role) || !Enum.IsDefined(role) || char.IsDigit(segment[0]))
            {
                throw new InvalidInputException(file, place, $"marker '{name}': '{segment}' is not a body role");
            }

            markers.Add(
                new MarkerDefinition(
                    name,
                    role,
                    m.TryGetProperty("offset", out var o) && o.ValueKind != JsonValueKind.Null
                        ? JsonInput.Vector(o, place + ".offset", file)
                        : null
                )
            );
        }

        if (markers.Count == 0)
        {
            throw new InvalidInputException(file, "markers", "the set has no markers");
        }

        return new MarkerSet(
            root.TryGetProperty("name", out var n) && n.ValueKind == JsonValueKind.String
                ? n.GetString()!
                : Path.GetFileNameWithoutExtension(file),
            markers,
            ReadLinks(root, markers, file)
        );
    }

    private static List<(string, string)> ReadLinks(JsonElement root, List<MarkerDefinition> markers, string file)
    {
        var links = new List<(string, string)>();
        if (!root.TryGetProperty("links", out var list) || list.ValueKind == JsonValueKind.Null)
        {
            return links;
        }

        if (list.ValueKind != JsonValueKind.Array)
        {
            throw new InvalidInputException(file, "links", "a list of pairs of names is expected");
        }

        foreach (var (pair, i) in list.EnumerateArray().Select((p, i) => (p, i)))
        {
            if (
                pair.ValueKind != JsonValueKind.Array
                || pair.GetArrayLength() != 2
                || pair[0].ValueKind != JsonValueKind.String
                || pair[1].ValueKind != JsonValueKind.String
            )
            {
                throw new InvalidInputException(file, $"links[{i}]", "a pair of marker names is expected");
            }

            var (a, b) = (pair[0].GetString()!, pair[1].GetString()!);
            var unknown =
                markers.All(m => m.Name != a) ? a
                : markers.All(m => m.Name != b) ? b
                : null;
            if (unknown is not null)
            {
                throw new InvalidInputException(file, $"links[{i}]", $"'{unknown}' is not a marker of this set");
            }

            links.Add((a, b));
        }

        return links;
    }

    /// <summary>Writes what <see cref="Read"/> reads.</summary>
    public static string Write(MarkerSet set) =>
        new JsonObject
        {
            ["name"] = set.Name,
            ["markers"] = new JsonArray([
                .. set.Markers.Select(m =>
                {
                    var o = new JsonObject { ["name"] = m.Name, ["segment"] = m.Segment.ToString() };
                    if (m.Offset is { } v)
                    {
                        o["offset"] = Array(v);
                    }

                    return (JsonNode)o;
                }),
            ]),
            ["links"] = new JsonArray([.. set.Links.Select(l => (JsonNode)new JsonArray(l.A, l.B))]),
        }.ToJsonString(new JsonSerializerOptions { WriteIndented = true });

    internal static JsonArray Array(Vector3 v) => [Math.Round(v.X, 6), Math.Round(v.Y, 6), Math.Round(v.Z, 6)];
}
