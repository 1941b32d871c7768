using System.Numerics;
using System.Text.Json;

namespace Eidolon.Core.Formats.Json;

/// <summary>Helpers to read JSON inputs with a place in every complaint.</summary>
internal static class JsonInput
{
    public static JsonDocument Parse(byte[] bytes, string file)
    {
        try
        {
            return JsonDocument.Parse(
                bytes,
                new JsonDocumentOptions
                {
                    AllowTrailingCommas = true,
                    CommentHandling = JsonCommentHandling.Skip,
                    MaxDepth = 64,
                }
            );
        }
        catch (JsonException e)
        {
            throw new InvalidInputException(
                file,
                $"line {(e.LineNumber ?? 0) + 1}",
                "the JSON cannot be read: " + e.Message.Split('.')[0],
                e
            );
        }
    }

    public static JsonElement Property(JsonElement e, string name, JsonValueKind kind, string place, string file) =>
        e.ValueKind == JsonValueKind.Object && e.TryGetProperty(name, out var v) && v.ValueKind == kind
            ? v
            : throw new InvalidInputException(file, place, $"'{name}' is missing or not {Word(kind)}");

    public static Vector3 Vector(JsonElement e, string place, string file)
    {
        if (e.ValueKind != JsonValueKind.Array || e.GetArrayLength() != 3)
        {
            throw new InvalidInputException(file, place, "three numbers [x, y, z] are expected");
        }

        Span<float> v = stackalloc float[3];
        for (var i = 0; i < 3; i++)
        {
            if (e[i].ValueKind != JsonValueKind.Number || !e[i].TryGetSingle(out v[i]) || !float.IsFinite(v[i]))
            {
                throw new InvalidInputException(file, place, "a coordinate is not a number");
            }
        }

        return new Vector3(v[0], v[1], v[2]);
    }

    private static string Word(JsonValueKind kind) =>
        kind switch
        {
            JsonValueKind.Array => "a list",
            JsonValueKind.String => "a text",
            JsonValueKind.Object => "an object",
            _ => "a number",
        };
}
