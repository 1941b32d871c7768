using System.Buffers.Binary;
using System.Text.Json;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>Checks a glTF's claims before any library allocates for them.</summary>
internal static class GltfGuard
{
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

            foreach (var list in new[] { "accessors", "bufferViews", "buffers" })
            {
                if (!doc.RootElement.TryGetProperty(list, out var items) || items.ValueKind != JsonValueKind.Array)
                {
                    continue;
                }

                var i = 0;
                long sum = 0;
                foreach (var item in items.EnumerateArray())
                {
                    var key = list == "accessors" ? "count" : "byteLength";
                    if (
                        item.ValueKind == JsonValueKind.Object
                        && item.TryGetProperty(key, out var c)
                        && c.ValueKind == JsonValueKind.Number
                    )
                    {
                        var claim = c.TryGetInt64(out var n) ? n : long.MaxValue;
                        sum = claim < 0 || claim > long.MaxValue - sum ? long.MaxValue : sum + claim;
                    }

                    // External buffers of a .gltf lie beside it; data may also be repeated, so the bound is generous.
                    if (sum > Math.Max(fileBytes * 4, 1 << 20) && list != "buffers" || sum > int.MaxValue)
                    {
                        throw new InvalidInputException(
                            file,
                            $"{list}[{i}].{key}",
                            $"claims {sum} in all, far more than a file of {fileBytes} bytes holds"
                        );
                    }

                    i++;
                }
            }
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
}
