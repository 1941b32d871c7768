using System.Text.Json;
using System.Text.Json.Nodes;

namespace Eidolon.Core.Operations;

/// <summary>Entries as JSON, and what may be done to their order.</summary>
public static class EntryList
{
    public static string Write(IEnumerable<Entry> entries) =>
        new JsonArray([
            .. entries.Select(e =>
                (JsonNode)
                    new JsonObject
                    {
                        ["operation"] = e.Operation,
                        ["version"] = e.Version,
                        ["parameters"] = e.Parameters.DeepClone(),
                        ["on"] = e.On,
                    }
            ),
        ]).ToJsonString();

    /// <exception cref="ArgumentException">The text is no list of known entries; says where.</exception>
    public static IReadOnlyList<Entry> Read(string json)
    {
        try
        {
            var list = JsonNode.Parse(json) as JsonArray ?? throw new ArgumentException("the entries are no list");
            return
            [
                .. list.Select(e => new Entry(
                    OperationRegistry.Find((string)e!["operation"]!).Name,
                    (int)e["version"]!,
                    e["parameters"]!.DeepClone().AsObject(),
                    (bool)e["on"]!
                )),
            ];
        }
        catch (Exception e) when (e is JsonException or InvalidOperationException or NullReferenceException)
        {
            throw new ArgumentException($"the entries cannot be read: {e.Message}", e);
        }
    }

    /// <summary>May two neighbours trade places? Only where both work on what the other leaves: cleaning among cleaning, layers among layers.</summary>
    public static bool MayTrade(Entry a, Entry b)
    {
        bool Free(Entry e) => e.Operation is "fill" or "despike" or "smooth" or "hide" or "contacts";
        return (Free(a) && Free(b)) || (a.Operation == "layer" && b.Operation == "layer");
    }

    /// <summary>Moves an entry to another place, past neighbours it may trade with.</summary>
    /// <exception cref="ArgumentException">One on the way must stay before or after it; says which.</exception>
    public static IReadOnlyList<Entry> Move(IReadOnlyList<Entry> entries, int from, int to)
    {
        if (from < 0 || from >= entries.Count || to < 0 || to >= entries.Count)
        {
            throw new ArgumentException("there is no such place in the Ledger");
        }

        var list = entries.ToList();
        var step = Math.Sign(to - from);
        for (var i = from; i != to; i += step)
        {
            if (!MayTrade(list[i], list[i + step]))
            {
                throw new ArgumentException(
                    $"'{OperationRegistry.Find(list[i].Operation).Title}' cannot go {(step > 0 ? "after" : "before")} '{OperationRegistry.Find(list[i + step].Operation).Title}'"
                );
            }

            (list[i], list[i + step]) = (list[i + step], list[i]);
        }

        return list;
    }
}
