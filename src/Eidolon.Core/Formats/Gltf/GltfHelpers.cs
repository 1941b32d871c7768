using System.Text.Json;
using System.Text.Json.Nodes;
using SharpGLTF.Schema2;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>
/// Bones of the skin alone, marked in a node's extras: <c>{ "follows": "joint", "share": 0.33 }</c>. They are no joints of the skeleton; whoever
/// writes a motion writes theirs along.
/// </summary>
internal static class GltfHelpers
{
    public static JsonObject Extras(string follows, float share) => new() { ["follows"] = follows, ["share"] = share };

    /// <summary>Which joint a helper follows, and by how much; null for every other node, also where the mark is damaged.</summary>
    public static (string Joint, float Share)? Of(Node node) =>
        node.Extras is JsonObject e
        && e["follows"] is JsonValue follows
        && follows.GetValueKind() == JsonValueKind.String
        && e["share"] is JsonValue share
        && share.GetValueKind() == JsonValueKind.Number
        && node.VisualParent?.VisualChildren.Any(n => n != node && n.Name == follows.GetValue<string>()) == true
            ? (follows.GetValue<string>(), (float)share.GetValue<double>())
            : null;
}
