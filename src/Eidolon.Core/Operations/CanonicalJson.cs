using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Eidolon.Core.Operations;

/// <summary>One text for JSON values that mean the same: keys in order, numbers in their shortest form, so that 1, 1.0 and 1e0 are alike.</summary>
public static class CanonicalJson
{
    /// <summary>The one way a JSON value is written: keys sorted, numbers in their shortest form.</summary>
    public static string Write(JsonNode? node)
    {
        var text = new StringBuilder();
        Append(text, node);
        return text.ToString();
    }

    private static void Append(StringBuilder text, JsonNode? node)
    {
        switch (node)
        {
            case null:
                text.Append("null");
                break;
            case JsonObject o:
                text.Append('{');
                foreach (var (key, value) in o.OrderBy(p => p.Key, StringComparer.Ordinal))
                {
                    text.Append(JsonSerializer.Serialize(key)).Append(':');
                    Append(text, value);
                    text.Append(',');
                }

                text.Append('}');
                break;
            case JsonArray a:
                text.Append('[');
                foreach (var value in a)
                {
                    Append(text, value);
                    text.Append(',');
                }

                text.Append(']');
                break;
            default:
                text.Append(
                    node.GetValueKind() == JsonValueKind.Number
                    && double.TryParse(node.ToJsonString(), CultureInfo.InvariantCulture, out var n)
                        ? n.ToString("R", CultureInfo.InvariantCulture)
                        : node.ToJsonString()
                );
                break;
        }
    }
}
