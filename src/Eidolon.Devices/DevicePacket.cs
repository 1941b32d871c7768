using System.Buffers.Binary;

namespace Eidolon.Devices;

/// <summary>
/// What every packet begins with, little-endian: "EIDN", version (1 byte), kind, source (camera or 0), battery (percent, 255 mains),
/// sequence (uint32, one count a source), the device's own clock (float64, seconds), length of what follows (uint16).
/// </summary>
/// <param name="Source">Which camera of the device, from 0.</param>
/// <param name="Battery">Percent, or null on mains.</param>
/// <param name="Clock">Seconds on the device's own clock.</param>
public readonly record struct DevicePacket(DeviceKind Kind, byte Source, byte? Battery, uint Sequence, double Clock)
{
    public const int Header = 22;
    public const int Largest = 16 * 1024;
    private const byte Version = 1;

    /// <summary>Writes the header before a payload that is already in place; returns the packet's length.</summary>
    public int Write(Span<byte> buffer, int payload)
    {
        "EIDN"u8.CopyTo(buffer);
        buffer[4] = Version;
        buffer[5] = (byte)Kind;
        buffer[6] = Source;
        buffer[7] = Battery ?? 255;
        BinaryPrimitives.WriteUInt32LittleEndian(buffer[8..], Sequence);
        BinaryPrimitives.WriteDoubleLittleEndian(buffer[12..], Clock);
        BinaryPrimitives.WriteUInt16LittleEndian(buffer[20..], checked((ushort)payload));
        return Header + payload;
    }

    /// <summary>Reads the header. False when the packet is not ours, of another version or not whole.</summary>
    public static bool TryRead(ReadOnlySpan<byte> bytes, out DevicePacket packet, out ReadOnlySpan<byte> payload)
    {
        packet = default;
        payload = default;
        if (
            bytes.Length is < Header or > Largest
            || !bytes[..4].SequenceEqual("EIDN"u8)
            || bytes[4] != Version
            || !Enum.IsDefined((DeviceKind)bytes[5])
            || BinaryPrimitives.ReadUInt16LittleEndian(bytes[20..]) != bytes.Length - Header
        )
        {
            return false;
        }

        var clock = BinaryPrimitives.ReadDoubleLittleEndian(bytes[12..]);
        if (!double.IsFinite(clock) || Math.Abs(clock) > 1e11 || (bytes[7] > 100 && bytes[7] != 255))
        {
            return false;
        }

        packet = new DevicePacket(
            (DeviceKind)bytes[5],
            bytes[6],
            bytes[7] == 255 ? null : bytes[7],
            BinaryPrimitives.ReadUInt32LittleEndian(bytes[8..]),
            clock
        );
        payload = bytes[Header..];
        return true;
    }
}
