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
            return string.IsNullOrWhiteSpace(json)
                ? []
                : JsonNode.Parse(json) as JsonObject ?? throw new JsonException("a list or a value");
        }
        catch (JsonException e)
        {
            throw new RefusedException("the parameters are no JSON object", e);
        }
    }
}
