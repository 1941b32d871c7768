using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core.Operations;

namespace Eidolon.Core.Ledgers;

/// <summary>Ledger entries that make sense on other takes too, in order.</summary>
public static class Recipe
{
    /// <summary>Can an entry be part of a Recipe?</summary>
    public static bool Fits(string operation, JsonObject? parameters) =>
        OperationRegistry.TryFind(operation, out var o) && o.FitsRecipe(parameters ?? []);

    /// <summary>As it is stored.</summary>
    /// <exception cref="RefusedException">Nothing was chosen, or an entry belongs to one take only; says which.</exception>
    public static string Write(IReadOnlyList<Entry> entries)
    {
        if (entries.Count == 0)
        {
            throw new RefusedException("choose at least one entry");
        }

        if (entries.FirstOrDefault(e => !Fits(e.Operation, e.Parameters)) is { } odd)
        {
            throw new RefusedException(
                $"'{OperationRegistry.TitleOf(odd.Operation)}' speaks of this take's own frames: it cannot be part of a Recipe"
            );
        }

        return new JsonArray([
            .. entries.Select(e => (JsonNode)new JsonObject { ["operation"] = e.Operation, ["parameters"] = e.Parameters.DeepClone() }),
        ]).ToJsonString();
    }

    /// <exception cref="RefusedException">The text is no Recipe, or names an operation that is not there.</exception>
    public static IReadOnlyList<Entry> Read(string json)
    {
        try
        {
            var list = JsonNode.Parse(json) as JsonArray ?? throw new RefusedException("the Recipe is no list of entries");
            return
            [
                .. list.Select(e =>
                    OperationRegistry
                        .Find((string?)e?["operation"] ?? throw new RefusedException("an entry of the Recipe names no operation"))
                        .Entry(e!["parameters"]?.DeepClone() as JsonObject)
                ),
            ];
        }
        catch (Exception e) when (e is JsonException or InvalidOperationException)
        {
            throw new RefusedException($"the Recipe cannot be read: {e.Message}", e);
        }
    }
}
