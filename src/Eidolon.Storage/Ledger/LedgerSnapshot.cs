using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Operations;

namespace Eidolon.Storage.Ledger;

/// <summary>A whole Ledger as JSON, to be kept under a name: [{ kind, subject, target, source, entries: [{ operation, version, parameters, on }] }].</summary>
public static class LedgerSnapshot
{
    public sealed record Node(NodeKind Kind, NodeScope Scope, string Source, IReadOnlyList<Entry> Entries);

    public static string Write(IEnumerable<Node> nodes) =>
        new JsonArray([
            .. nodes.Select(n =>
                (JsonNode)
                    new JsonObject
                    {
                        ["kind"] = n.Kind.ToString(),
                        ["subject"] = n.Scope.Subject,
                        ["target"] = n.Scope.Target,
                        ["source"] = n.Source,
                        ["entries"] = new JsonArray([.. n.Entries.Select(e => (JsonNode)Entry(e))]),
                    }
            ),
        ]).ToJsonString();

    public static string Write(LedgerDraft draft) =>
        Write(draft.Nodes.Select(n => new Node(n.Kind, n.Scope, n.Source, [.. n.Entries.Select(e => e.Entry)])));

    /// <exception cref="RefusedException">The text is no Ledger; says where.</exception>
    public static IReadOnlyList<Node> Read(string json)
    {
        try
        {
            var list = JsonNode.Parse(json) as JsonArray ?? throw new RefusedException("the version is no list of nodes");
            return
            [
                .. list.Select(n => new Node(
                    Enum.Parse<NodeKind>((string)n!["kind"]!),
                    new NodeScope((int)n["subject"]!, (int)n["target"]!),
                    (string)n["source"]!,
                    [.. ((JsonArray)n["entries"]!).Select(e => Entry(e!))]
                )),
            ];
        }
        catch (Exception e) when (e is JsonException or InvalidOperationException or NullReferenceException or ArgumentException)
        {
            throw new RefusedException($"the version cannot be read: {e.Message}", e);
        }
    }

    private static JsonObject Entry(Entry e) =>
        new()
        {
            ["operation"] = e.Operation,
            ["version"] = e.Version,
            ["parameters"] = e.Parameters.DeepClone(),
            ["on"] = e.On,
        };

    private static Entry Entry(JsonNode e) =>
        new((string)e["operation"]!, (int)e["version"]!, e["parameters"]!.DeepClone().AsObject(), (bool)e["on"]!);
}
