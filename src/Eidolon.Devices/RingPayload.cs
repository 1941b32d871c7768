using System.Buffers.Binary;

namespace Eidolon.Devices;

/// <summary>One camera's centroids of one frame: u and v as uint16, 1/32 of a pixel each. The packet's sequence is the frame.</summary>
public static class RingPayload
{
    public const float Unit = 1 / 32f;
    public const int MostCentroids = 1000;

    public static int Write(Span<byte> payload, ReadOnlySpan<float> u, ReadOnlySpan<float> v)
    {
        var n = Math.Min(u.Length, MostCentroids);
        for (var k = 0; k < n; k++)
        {
            BinaryPrimitives.WriteUInt16LittleEndian(payload[(k * 4)..], (ushort)Math.Clamp(MathF.Round(u[k] / Unit), 0, ushort.MaxValue));
            BinaryPrimitives.WriteUInt16LittleEndian(
                payload[((k * 4) + 2)..],
                (ushort)Math.Clamp(MathF.Round(v[k] / Unit), 0, ushort.MaxValue)
            );
        }

        return n * 4;
    }

    /// <summary>Number of centroids, −1 when the payload is not whole.</summary>
    public static int Read(ReadOnlySpan<byte> payload, Span<float> u, Span<float> v)
    {
        if (payload.Length % 4 != 0 || payload.Length / 4 > Math.Min(u.Length, MostCentroids))
        {
            return -1;
        }

        var n = payload.Length / 4;
        for (var k = 0; k < n; k++)
        {
            u[k] = BinaryPrimitives.ReadUInt16LittleEndian(payload[(k * 4)..]) * Unit;
            v[k] = BinaryPrimitives.ReadUInt16LittleEndian(payload[((k * 4) + 2)..]) * Unit;
        }

        return n;
    }
}
