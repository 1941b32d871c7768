using System.Numerics;
using System.Text.Json;
using System.Text.Unicode;

namespace Eidolon.Core.Formats.Json;

/// <summary>Helpers to read JSON inputs with a place in every complaint.</summary>
internal static class JsonInput
{
    /// <summary>Reads a document; whatever is wrong with its letters or numbers is said with the file's name.</summary>
    /// <exception cref="InvalidInputException">It cannot be read.</exception>
    public static T Read<T>(byte[] bytes, string file, Func<JsonElement, T> read)
    {
        var start = Utf8Mark.Length(bytes);
        var text = bytes.AsMemory(start);
        if (!Utf8.IsValid(text.Span))
        {
            throw new InvalidInputException(file, "text", "it is not written in UTF-8");
        }

        using var doc = Parse(text, file);
        try
        {
            return read(doc.RootElement);
        }
        catch (Exception e) when (e is InvalidOperationException or FormatException or ArgumentException)
        {
            // Half a letter in an escape, or a number beyond all numbers.
            throw new InvalidInputException(file, "text", "a text or a number in it cannot be read", e);
        }
    }

    private static JsonDocument Parse(ReadOnlyMemory<byte> text, string file)
    {
        try
        {
            return JsonDocument.Parse(
                text,
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
