using System.Text.Json.Nodes;
using SharpGLTF.Schema2;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>What a glTF holds besides joints.</summary>
public static class GltfContents
{
    /// <summary>Names of the meshes; one without a name is called by its number.</summary>
    public static IReadOnlyList<string> MeshNames(ModelRoot model) => [.. model.LogicalMeshes.Select((m, i) => m.Name ?? $"mesh{i}")];

    /// <summary>Target names of all meshes of a file.</summary>
    /// <exception cref="InvalidInputException">It is no glTF.</exception>
    public static IReadOnlySet<string> MorphNames(byte[] glb, string file) =>
        GltfReader.Open(glb, file).LogicalMeshes.SelectMany(MorphNames).ToHashSet(StringComparer.Ordinal);

    /// <summary>Target names of a mesh: from <c>extras.targetNames</c>, otherwise numbered.</summary>
    public static IReadOnlyList<string> MorphNames(Mesh mesh)
    {
        var count = mesh.Primitives.Select(p => p.MorphTargetsCount).DefaultIfEmpty(0).Max();
        var named = (mesh.Extras as JsonObject)?["targetNames"] as JsonArray;
        return
        [
            .. Enumerable
                .Range(0, count)
                .Select(i =>
                    named is not null && i < named.Count && named[i] is JsonValue v && v.TryGetValue<string>(out var s)
                        ? s
                        : $"{mesh.Name ?? "mesh"}.{i}"
                ),
        ];
    }
}
