using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core;

namespace Eidolon.Studio.Services;

/// <summary>Parameters of an operation as a page sends them.</summary>
internal static class ParameterJson
{
    /// <summary>Parameters that a script sends as JSON; none when the text is empty.</summary>
    /// <exception cref="RefusedException">The text is no JSON object.</exception>
    public static JsonObject Parse(string? json)
    {
        try
        {
            var parameters = string.IsNullOrWhiteSpace(json)
                ? []
                : JsonNode.Parse(json) as JsonObject ?? throw new JsonException("a list or a value");
            Touch(parameters);
            return parameters;
        }
        catch (Exception e) when (e is JsonException or InvalidOperationException or ArgumentException)
        {
            throw new RefusedException("the parameters are no JSON object that can be read", e);
        }
    }

    /// <summary>Reads all of it once: half a letter in an escape or a name that stands twice is only found when it is read.</summary>
    private static void Touch(JsonNode? node)
    {
        switch (node)
        {
            case JsonObject o:
                foreach (var (_, value) in o)
                {
                    Touch(value);
                }

                break;
            case JsonArray a:
                foreach (var value in a)
                {
                    Touch(value);
                }

                break;
            case JsonValue v when v.GetValueKind() == JsonValueKind.String:
                v.GetValue<string>();
                break;
            default:
                break;
        }
    }
}
