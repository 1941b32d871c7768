using System.Text.Json.Nodes;

namespace Eidolon.Core.Operations;

/// <summary>Ledger entries that make sense on other takes too, in order.</summary>
public static class Recipe
{
    /// <summary>What speaks of one take's own dots, frames or clips is of no use on another.</summary>
    private static readonly string[] OwnOnly =
    [
        "set-label",
        "exchange",
        "unlabel",
        "split",
        "join",
        "discard",
        "hide",
        "trim",
        "contacts",
        "assemble",
        "layer",
    ];

    /// <summary>Can an entry be part of a Recipe?</summary>
    public static bool Fits(string operation, JsonObject? parameters) =>
        !OwnOnly.Contains(operation) && parameters?["marker"] is null && parameters?["frame"] is null;

    /// <summary>As it is stored.</summary>
    /// <exception cref="ArgumentException">Nothing was chosen, or an entry belongs to one take only; says which.</exception>
    public static string Write(IReadOnlyList<Entry> entries)
    {
        if (entries.Count == 0)
        {
            throw new ArgumentException("choose at least one entry");
        }

        foreach (var e in entries)
        {
            if (!Fits(e.Operation, e.Parameters))
            {
                throw new ArgumentException(
                    $"'{OperationRegistry.Find(e.Operation).Title}' speaks of this take's own frames: it cannot be part of a Recipe"
                );
            }
        }

        return new JsonArray([
            .. entries.Select(e => (JsonNode)new JsonObject { ["operation"] = e.Operation, ["parameters"] = e.Parameters.DeepClone() }),
        ]).ToJsonString();
    }

    public static IReadOnlyList<Entry> Read(string json) =>
        [
            .. (JsonNode.Parse(json) as JsonArray ?? []).Select(e =>
                OperationRegistry.Find((string)e!["operation"]!).Entry(e["parameters"]?.DeepClone() as JsonObject)
            ),
        ];
}
