using System.Runtime.InteropServices;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using Eidolon.Core.Characters.Binding;
using Eidolon.Core.Formats.Gltf;

namespace Eidolon.Studio.Api;

/// <summary>Weights of a skin for the browser: little-endian, four bones (uint16) and four weights (float) a vertex.</summary>
internal static class WeightBytes
{
    /// <summary>How strokes come from the browser.</summary>
    public static JsonSerializerOptions Json { get; } =
        new(JsonSerializerDefaults.Web) { Converters = { new JsonStringEnumConverter(JsonNamingPolicy.CamelCase) } };

    /// <summary>A length (int32), that much JSON {bones, parts [{mesh, primitive, start, count}]} padded to four bytes, all bones, all weights.</summary>
    public static byte[] Whole(GltfSkinSurface skin, SkinWeights weights)
    {
        var head = new JsonObject
        {
            ["bones"] = new JsonArray([.. skin.Surface.Bones.Select(b => (JsonNode)b)]),
            ["parts"] = new JsonArray([
                .. skin.Parts.Select(p =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["mesh"] = p.Mesh,
                            ["primitive"] = p.Primitive,
                            ["start"] = p.Start,
                            ["count"] = p.Count,
                        }
                ),
            ]),
        };
        var json = JsonSerializer.SerializeToUtf8Bytes(head);
        using var stream = new MemoryStream();
        using var w = new BinaryWriter(stream);
        var padded = (json.Length + 3) & ~3;
        w.Write(padded);
        w.Write(json);
        w.Write([.. Enumerable.Repeat((byte)' ', padded - json.Length)]);
        w.Write(MemoryMarshal.AsBytes(weights.Joints.SelectMany(j => new[] { j.A, j.B, j.C, j.D }).ToArray().AsSpan()));
        w.Write(MemoryMarshal.AsBytes(weights.Weights.AsSpan()));
        return stream.ToArray();
    }

    /// <summary>How many (int32), which vertices (int32 each), then their bones and weights.</summary>
    public static byte[] Patch(SkinWeights weights, IReadOnlyList<int> changed)
    {
        using var stream = new MemoryStream();
        using var w = new BinaryWriter(stream);
        w.Write(changed.Count);
        w.Write(MemoryMarshal.AsBytes(changed.ToArray().AsSpan()));
        w.Write(
            MemoryMarshal.AsBytes(changed.Select(v => weights.Joints[v]).SelectMany(j => new[] { j.A, j.B, j.C, j.D }).ToArray().AsSpan())
        );
        w.Write(MemoryMarshal.AsBytes(changed.Select(v => weights.Weights[v]).ToArray().AsSpan()));
        return stream.ToArray();
    }
}
