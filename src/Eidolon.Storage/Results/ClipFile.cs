using Eidolon.Core;
using Eidolon.Core.Operations;

namespace Eidolon.Storage.Results;

/// <summary>A motion of the library as one file: its head and its channels, each after its length.</summary>
public static class ClipFile
{
    public static byte[] Write(MotionValue value)
    {
        var parts = new List<byte[]>();
        var head = ValueCodec.Write(value, bytes => parts.Add(bytes.ToArray()));
        using var stream = new MemoryStream();
        using var w = new BinaryWriter(stream);
        foreach (var part in parts.Prepend(head))
        {
            w.Write(part.Length);
            w.Write(part);
        }

        w.Flush();
        return stream.ToArray();
    }

    /// <exception cref="DamagedDataException">Something of it is missing.</exception>
    public static MotionValue Read(byte[] bytes, string name)
    {
        var at = 0;
        byte[]? Next()
        {
            if (at + 4 > bytes.Length || BitConverter.ToInt32(bytes, at) is var length && (length < 0 || length > bytes.Length - at - 4))
            {
                return null;
            }

            at += 4 + length;
            return bytes[(at - length)..at];
        }

        try
        {
            return Next() is { } head && ValueCodec.Read(head, Next) is MotionValue value ? value : throw Damaged();
        }
        catch (Exception e) when (e is EndOfStreamException or ArgumentException)
        {
            throw Damaged();
        }

        DamagedDataException Damaged() => new($"the motion of the clip '{name}' is damaged");
    }
}
