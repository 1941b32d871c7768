using System.Buffers.Binary;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>The GLB container: a JSON chunk and a binary one (glTF 2.0, section 4.4).</summary>
internal static class GltfContainer
{
    private static readonly JsonSerializerOptions Readable = new()
    {
        WriteIndented = true,
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>It begins as a GLB does, whatever its name ends in.</summary>
    public static bool IsBinary(ReadOnlySpan<byte> bytes) => bytes.StartsWith("glTF"u8);

    /// <summary>The same GLB with its animations left out; text glTF comes back as it was.</summary>
    public static byte[] WithoutAnimations(byte[] bytes, string file)
    {
        if (!IsBinary(bytes))
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

    /// <summary>A GLB as text, its binary chunk embedded in it (glTF 2.0, section 3.6.1.1).</summary>
    public static byte[] AsText(byte[] glb, string file)
    {
        var json = GltfGuard.JsonOf(glb, file);
        var root = JsonNode.Parse(json.Span)!.AsObject();
        var at = 20 + json.Length;
        if (at + 8 <= glb.Length && root["buffers"] is JsonArray { Count: > 0 } buffers)
        {
            var size = (int)BinaryPrimitives.ReadUInt32LittleEndian(glb.AsSpan(at));
            // The chunk may be padded beyond the buffer.
            var length = Math.Min(size, (int?)buffers[0]!["byteLength"] ?? size);
            buffers[0]!["uri"] = "data:application/octet-stream;base64," + Convert.ToBase64String(glb.AsSpan(at + 8, length));
        }

        return JsonSerializer.SerializeToUtf8Bytes(root, Readable);
    }
}
