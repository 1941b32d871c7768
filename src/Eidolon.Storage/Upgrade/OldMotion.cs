using System.Numerics;
using System.Runtime.InteropServices;
using System.Text;
using Eidolon.Core;
using Eidolon.Core.Skeletons;

namespace Eidolon.Storage.Upgrade;

/// <summary>A motion that was brought in, as the version before stored it.</summary>
internal static class OldMotion
{
    /// <exception cref="DamagedDataException">The bytes are not such a motion.</exception>
    public static Motion Read(byte[] bytes)
    {
        try
        {
            using var r = new BinaryReader(new MemoryStream(bytes), Encoding.UTF8);
            if (r.ReadInt32() is not (2 or 3))
            {
                throw new DamagedDataException("a motion that was brought in has an unknown form");
            }

            _ = r.ReadString();
            SkipMarkers(r);
            return r.ReadBoolean() ? Body(r) : throw new DamagedDataException("a take that was brought in holds no motion");
        }
        catch (EndOfStreamException)
        {
            throw new DamagedDataException("a motion that was brought in is not whole");
        }
    }

    private static void SkipMarkers(BinaryReader r)
    {
        if (!r.ReadBoolean())
        {
            return;
        }

        _ = r.ReadDouble();
        var frames = r.ReadInt32();
        var names = r.ReadInt32();
        for (var i = 0; i < names; i++)
        {
            _ = r.ReadString();
        }

        _ = r.ReadBytes(frames * names * 12);
    }

    private static Motion Body(BinaryReader r)
    {
        var (rate, frames) = (r.ReadDouble(), r.ReadInt32());
        var joints = new Joint[r.ReadInt32()];
        for (var i = 0; i < joints.Length; i++)
        {
            var (name, parent, role) = (r.ReadString(), r.ReadInt32(), r.ReadString());
            var v = MemoryMarshal.Cast<byte, Vector3>(r.ReadBytes(24));
            var q = MemoryMarshal.Cast<byte, Quaternion>(r.ReadBytes(16));
            joints[i] = new Joint(name, parent, v[0])
            {
                RestRotation = q[0],
                EndSite = float.IsNaN(v[1].X) ? null : v[1],
                Role = role.Length == 0 ? null : Enum.Parse<BodyRole>(role),
            };
        }

        var n = frames * joints.Length;
        var turns = MemoryMarshal.Cast<byte, Quaternion>(r.ReadBytes(n * 16)).ToArray();
        var places = MemoryMarshal.Cast<byte, Vector3>(r.ReadBytes(n * 12)).ToArray();
        return new Motion(new Skeleton(joints), rate, frames, turns, places);
    }
}
