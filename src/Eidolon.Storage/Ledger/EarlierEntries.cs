using System.Text.Json.Nodes;
using Eidolon.Core.Operations;

namespace Eidolon.Storage.Ledger;

/// <summary>What an entry of which there is only one in its node said before: taking back goes through them, one change at a time.</summary>
/// <param name="Text">JSON, the latest last; empty for none.</param>
public sealed record EarlierEntries(string Text)
{
    /// <summary>So many changes can be taken back.</summary>
    private const int Most = 60;

    public static EarlierEntries None { get; } = new(string.Empty);

    public static EarlierEntries Read(string text) => text.Length == 0 ? None : new EarlierEntries(text);

    /// <summary>These and one more.</summary>
    public EarlierEntries With(Entry entry, long added)
    {
        var list = List();
        list.Add(
            new JsonObject
            {
                ["added"] = added,
                ["operation"] = entry.Operation,
                ["version"] = entry.Version,
                ["on"] = entry.On,
                ["parameters"] = entry.Parameters.DeepClone(),
            }
        );
        while (list.Count > Most)
        {
            list.RemoveAt(0);
        }

        return new EarlierEntries(list.ToJsonString());
    }

    /// <summary>The latest of them, and those before it; null where there is none.</summary>
    /// <param name="operation">Of the entry as it is: of the earlier one, too, where it does not say another.</param>
    public (Entry Entry, long Added, EarlierEntries Before)? Last(string operation)
    {
        var list = List();
        if (list.Count == 0)
        {
            return null;
        }

        var last = list[^1]!;
        list.RemoveAt(list.Count - 1);
        return (
            new Entry(
                (string?)last["operation"] ?? operation,
                (int)last["version"]!,
                (JsonObject)last["parameters"]!.DeepClone(),
                (bool)last["on"]!
            ),
            (long)last["added"]!,
            list.Count == 0 ? None : new EarlierEntries(list.ToJsonString())
        );
    }

    /// <summary>What an operation said when it stood here last; null where it did not.</summary>
    public JsonObject? ParametersOf(string operation) =>
        List().LastOrDefault(e => (string?)e!["operation"] == operation)?["parameters"]?.DeepClone() as JsonObject;

    private JsonArray List() => Text.Length == 0 ? [] : (JsonArray)JsonNode.Parse(Text)!;
}
