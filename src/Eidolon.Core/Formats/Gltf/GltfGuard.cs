using System.Buffers.Binary;
using System.Text.Json;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>Checks a glTF's claims before any library allocates for them.</summary>
internal static class GltfGuard
{
    private const int MostNodes = 2048;
    private const int Deepest = 256;

    /// <summary>The JSON of a GLB container.</summary>
    public static ReadOnlyMemory<byte> JsonOf(byte[] bytes, string file)
    {
        if (bytes.Length < 20 || BinaryPrimitives.ReadUInt32LittleEndian(bytes) != 0x46546C67)
        {
            throw new InvalidInputException(file, "byte 0", "this is not a GLB file");
        }

        var total = BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(8));
        if (total > bytes.Length)
        {
            throw new InvalidInputException(file, $"byte {bytes.Length}", $"the file says it has {total} bytes but ends here");
        }

        var length = BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(12));
        if (length > bytes.Length - 20 || BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(16)) != 0x4E4F534A)
        {
            throw new InvalidInputException(file, "byte 12", "the JSON chunk is missing or longer than the file");
        }

        return bytes.AsMemory(20, (int)length);
    }

    /// <summary>Refuses accessors that claim more than the file (or, without data, more than a sane amount) could hold.</summary>
    public static void Check(ReadOnlyMemory<byte> json, long fileBytes, string file)
    {
        try
        {
            using var doc = JsonDocument.Parse(json, new JsonDocumentOptions { MaxDepth = 128 });
            if (doc.RootElement.ValueKind != JsonValueKind.Object || !doc.RootElement.TryGetProperty("asset", out _))
            {
                throw new InvalidInputException(file, "JSON", "the required 'asset' is missing: this is not glTF");
            }

            Sizes(doc.RootElement, "bufferViews", fileBytes, file);
            Sizes(doc.RootElement, "buffers", fileBytes, file);
            Accessors(doc.RootElement, fileBytes, file);
            Tree(doc.RootElement, file);
        }
        catch (JsonException e)
        {
            throw new InvalidInputException(
                file,
                $"JSON line {(e.LineNumber ?? 0) + 1}",
                "the JSON cannot be read: " + e.Message.Split('.')[0],
                e
            );
        }
    }

    /// <summary>What views and buffers claim, in all: views may share bytes, buffers of a .gltf lie beside it.</summary>
    private static void Sizes(JsonElement root, string list, long fileBytes, string file)
    {
        double sum = 0;
        foreach (var (item, i) in Items(root, list))
        {
            sum += Number(item, "byteLength");
            if (sum > (list == "buffers" ? int.MaxValue : Math.Max(fileBytes * 4.0, 1 << 20)))
            {
                throw Claims(file, $"{list}[{i}].byteLength", sum, fileBytes);
            }
        }
    }

    /// <summary>Values of all accessors in bytes: those that share a view are counted again, so the bound is generous.</summary>
    private static void Accessors(JsonElement root, long fileBytes, string file)
    {
        double sum = 0;
        foreach (var (item, i) in Items(root, "accessors"))
        {
            var kind = item.ValueKind == JsonValueKind.Object && item.TryGetProperty("type", out var t) ? t.ToString() : string.Empty;
            var components = kind switch
            {
                "MAT4" => 16,
                "MAT3" => 9,
                "MAT2" or "VEC4" => 4,
                "VEC3" => 3,
                "VEC2" => 2,
                _ => 1,
            };
            sum += Number(item, "count") * components * sizeof(float);
            if (sum > Math.Max(fileBytes * 8.0, 1 << 20))
            {
                throw Claims(file, $"accessors[{i}].count", sum, fileBytes);
            }
        }
    }

    /// <summary>Nodes of a figure are some hundred, in a tree as deep as a body: more would be worked on for minutes.</summary>
    private static void Tree(JsonElement root, string file)
    {
        var children = Items(root, "nodes").Select(n => Children(n.Item).ToArray()).ToList();
        if (children.Count > MostNodes)
        {
            throw new InvalidInputException(file, "nodes", $"{children.Count} nodes are more than can be used (at most {MostNodes})");
        }

        var depth = new int[children.Count];
        var parents = new int[children.Count];
        Array.Fill(parents, -1);
        for (var n = 0; n < children.Count; n++)
        {
            foreach (var c in children[n].Where(c => c >= 0 && c < parents.Length))
            {
                parents[c] = n;
            }
        }

        for (var n = 0; n < children.Count; n++)
        {
            for (var up = parents[n]; up >= 0; up = parents[up])
            {
                if (++depth[n] > Deepest)
                {
                    throw new InvalidInputException(file, $"nodes[{n}]", $"it lies deeper than {Deepest} nodes, or in a circle");
                }
            }
        }
    }

    private static IEnumerable<int> Children(JsonElement node) =>
        node.ValueKind == JsonValueKind.Object && node.TryGetProperty("children", out var list) && list.ValueKind == JsonValueKind.Array
            ? list.EnumerateArray().Select(c => c.ValueKind == JsonValueKind.Number && c.TryGetInt32(out var i) ? i : -1)
            : [];

    private static IEnumerable<(JsonElement Item, int Index)> Items(JsonElement root, string list) =>
        root.TryGetProperty(list, out var items) && items.ValueKind == JsonValueKind.Array
            ? items.EnumerateArray().Select((item, i) => (item, i))
            : [];

    /// <summary>A count; anything that is none, or below zero, is beyond every bound.</summary>
    private static double Number(JsonElement item, string key) =>
        item.ValueKind != JsonValueKind.Object || !item.TryGetProperty(key, out var c) ? 0
        : c.ValueKind == JsonValueKind.Number && c.TryGetDouble(out var n) && n >= 0 ? n
        : double.PositiveInfinity;

    private static InvalidInputException Claims(string file, string place, double sum, long fileBytes) =>
        new(file, place, $"claims {sum:0} bytes in all, far more than a file of {fileBytes} bytes holds");
}
