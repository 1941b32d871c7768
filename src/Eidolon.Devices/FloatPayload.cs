using System.Runtime.InteropServices;

namespace Eidolon.Devices;

/// <summary>A fixed number of float32 values, all finite: suit, witness and face send these.</summary>
public static class FloatPayload
{
    public static int Write(Span<byte> payload, ReadOnlySpan<float> values)
    {
        MemoryMarshal.AsBytes(values).CopyTo(payload);
        return values.Length * 4;
    }

    /// <summary>False when the payload has another size or holds something that is not a number.</summary>
    public static bool TryRead(ReadOnlySpan<byte> payload, Span<float> values)
    {
        if (payload.Length != values.Length * 4)
        {
            return false;
        }

        MemoryMarshal.Cast<byte, float>(payload).CopyTo(values);
        foreach (var v in values)
        {
            if (!float.IsFinite(v))
            {
                return false;
            }
        }

        return true;
    }
}
