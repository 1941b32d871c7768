using System.Buffers.Binary;
using Eidolon.Core.Optical;

namespace Eidolon.Storage.Samples;

/// <summary>
/// Raw 2D frames as stored: for each camera its number of centroids (uint16, 65535 when nothing arrived), then u and v of each as uint16 in
/// 1/32 pixel.
/// </summary>
public static class CentroidCodec
{
    private const float Unit = 1 / 32f;
    private const ushort Nothing = ushort.MaxValue;

    /// <summary>Appends one camera's list, or that nothing arrived of it.</summary>
    public static void Write(List<byte> into, ReadOnlySpan<float> u, ReadOnlySpan<float> v, bool arrived)
    {
        Put(into, arrived ? (ushort)u.Length : Nothing);
        for (var k = 0; k < u.Length && arrived; k++)
        {
            Put(into, (ushort)Math.Clamp(MathF.Round(u[k] / Unit), 0, ushort.MaxValue));
            Put(into, (ushort)Math.Clamp(MathF.Round(v[k] / Unit), 0, ushort.MaxValue));
        }
    }

    /// <summary>Reads one chunk's frames into the builder. False when the bytes do not fit the frames.</summary>
    public static bool TryRead(ReadOnlySpan<byte> data, int frames, int cameras, CentroidTakeBuilder into)
    {
        Span<float> u = new float[ushort.MaxValue],
            v = new float[ushort.MaxValue];
        for (var i = 0; i < frames * cameras; i++)
        {
            if (data.Length < 2)
            {
                return false;
            }

            var n = BinaryPrimitives.ReadUInt16LittleEndian(data);
            data = data[2..];
            n = n == Nothing ? (ushort)0 : n;
            if (data.Length < n * 4)
            {
                return false;
            }

            for (var k = 0; k < n; k++)
            {
                u[k] = BinaryPrimitives.ReadUInt16LittleEndian(data[(k * 4)..]) * Unit;
                v[k] = BinaryPrimitives.ReadUInt16LittleEndian(data[((k * 4) + 2)..]) * Unit;
            }

            into.Add(u[..n], v[..n]);
            data = data[(n * 4)..];
        }

        return data.IsEmpty;
    }

    private static void Put(List<byte> into, ushort value)
    {
        into.Add((byte)value);
        into.Add((byte)(value >> 8));
    }
}
