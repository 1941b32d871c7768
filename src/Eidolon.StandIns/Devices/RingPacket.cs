using System.Buffers.Binary;
using System.Numerics;

namespace Eidolon.StandIns.Devices;

/// <summary>One frame of the camera ring on the wire: "ERNG", frame (uint32), count (uint16), then slot (uint16) and x, y, z (float32, metres) for each dot; little-endian.</summary>
public static class RingPacket
{
    public const int Slots = 72;
    public const int Header = 10;
    public const int Dot = 14;

    public static int Write(Span<byte> buffer, uint frame, ReadOnlySpan<Vector3> slots)
    {
        "ERNG"u8.CopyTo(buffer);
        BinaryPrimitives.WriteUInt32LittleEndian(buffer[4..], frame);
        var at = Header;
        ushort count = 0;
        for (var i = 0; i < slots.Length; i++)
        {
            if (float.IsNaN(slots[i].X))
            {
                continue;
            }

            BinaryPrimitives.WriteUInt16LittleEndian(buffer[at..], (ushort)i);
            BinaryPrimitives.WriteSingleLittleEndian(buffer[(at + 2)..], slots[i].X);
            BinaryPrimitives.WriteSingleLittleEndian(buffer[(at + 6)..], slots[i].Y);
            BinaryPrimitives.WriteSingleLittleEndian(buffer[(at + 10)..], slots[i].Z);
            at += Dot;
            count++;
        }

        BinaryPrimitives.WriteUInt16LittleEndian(buffer[8..], count);
        return at;
    }

    /// <summary>Reads a packet into slots (NaN where empty). False when it is not one of ours, has a wrong size or holds no usable numbers.</summary>
    public static bool TryRead(ReadOnlySpan<byte> packet, out uint frame, Span<Vector3> slots)
    {
        frame = 0;
        if (packet.Length < Header || !packet[..4].SequenceEqual("ERNG"u8))
        {
            return false;
        }

        frame = BinaryPrimitives.ReadUInt32LittleEndian(packet[4..]);
        int count = BinaryPrimitives.ReadUInt16LittleEndian(packet[8..]);
        if (packet.Length != Header + (count * Dot) || count > slots.Length)
        {
            return false;
        }

        slots.Fill(new Vector3(float.NaN));
        for (var i = 0; i < count; i++)
        {
            var at = Header + (i * Dot);
            int slot = BinaryPrimitives.ReadUInt16LittleEndian(packet[at..]);
            var p = new Vector3(BinaryPrimitives.ReadSingleLittleEndian(packet[(at + 2)..]), BinaryPrimitives.ReadSingleLittleEndian(packet[(at + 6)..]), BinaryPrimitives.ReadSingleLittleEndian(packet[(at + 10)..]));
            if (slot >= slots.Length || !float.IsFinite(p.X + p.Y + p.Z) || p.LengthSquared() > 1e6f)
            {
                return false;
            }

            slots[slot] = p;
        }

        return true;
    }
}
