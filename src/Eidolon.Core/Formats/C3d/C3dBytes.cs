using System.Buffers.Binary;

namespace Eidolon.Core.Formats.C3d;

/// <summary>Numbers of a C3D file in the byte order of its processor: 84 Intel, 85 DEC, 86 MIPS.</summary>
internal sealed class C3dBytes(byte[] bytes, string file, int processor)
{
    public int Length => bytes.Length;

    public byte U8(int at) => at >= 0 && at < bytes.Length ? bytes[at] : throw Ends(at);

    public short I16(int at)
    {
        Check(at, 2);
        return processor == 86
            ? BinaryPrimitives.ReadInt16BigEndian(bytes.AsSpan(at))
            : BinaryPrimitives.ReadInt16LittleEndian(bytes.AsSpan(at));
    }

    public float F32(int at)
    {
        Check(at, 4);
        var s = bytes.AsSpan(at);
        if (processor == 86)
        {
            return BinaryPrimitives.ReadSingleBigEndian(s);
        }

        if (processor == 84)
        {
            return BinaryPrimitives.ReadSingleLittleEndian(s);
        }

        // VAX F-floating: the 16-bit halves are swapped and the exponent is two larger.
        var bits = ((uint)BinaryPrimitives.ReadUInt16LittleEndian(s) << 16) | BinaryPrimitives.ReadUInt16LittleEndian(s[2..]);
        return (bits & 0x7f800000) == 0 ? 0 : BitConverter.UInt32BitsToSingle(bits) / 4;
    }

    public ReadOnlySpan<byte> Slice(int at, int count)
    {
        Check(at, count);
        return bytes.AsSpan(at, count);
    }

    private void Check(int at, int count)
    {
        if (at < 0 || count < 0 || (long)at + count > bytes.Length)
        {
            throw Ends(at);
        }
    }

    private InvalidInputException Ends(int at) => new(file, $"byte {at}", $"the file ends here, at {bytes.Length} bytes");
}
