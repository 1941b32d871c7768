using System.Buffers.Binary;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>The GLB container: a JSON chunk and a binary one (glTF 2.0, section 4.4).</summary>
internal static class GltfContainer
{
    /// <summary>The same GLB with its animations left out; text glTF comes back as it was.</summary>
    public static byte[] WithoutAnimations(byte[] bytes, string file)
    {
        if (bytes.Length < 4 || !bytes.AsSpan(0, 4).SequenceEqual("glTF"u8))
        {
            return bytes;
        }

        JsonObject root;
        var json = GltfGuard.JsonOf(bytes, file);
        try
        {
            root = JsonNode.Parse(json.Span) as JsonObject ?? throw new JsonException("not an object");
        }
        catch (JsonException e)
        {
            throw new InvalidInputException(file, "JSON", "the JSON cannot be read: " + e.Message, e);
        }

        if (!root.Remove("animations"))
        {
            return bytes;
        }

        var text = JsonSerializer.SerializeToUtf8Bytes(root);
        var padded = (text.Length + 3) / 4 * 4;
        var rest = bytes.AsSpan(20 + json.Length);
        var result = new byte[20 + padded + rest.Length];
        bytes.AsSpan(0, 8).CopyTo(result);
        BinaryPrimitives.WriteUInt32LittleEndian(result.AsSpan(8), (uint)result.Length);
        BinaryPrimitives.WriteUInt32LittleEndian(result.AsSpan(12), (uint)padded);
        BinaryPrimitives.WriteUInt32LittleEndian(result.AsSpan(16), 0x4E4F534A);
        text.CopyTo(result, 20);
        result.AsSpan(20 + text.Length, padded - text.Length).Fill((byte)' ');
        rest.CopyTo(result.AsSpan(20 + padded));
        return result;
    }
}
