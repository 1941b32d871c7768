using System.IO.Compression;
using System.Numerics;
using System.Runtime.InteropServices;
using System.Text;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;

namespace Eidolon.Storage;

/// <summary>Take data to bytes and back, for the result cache.</summary>
internal static class ResultCodec
{
    private const int Version = 3;

    /// <summary>Motions brought in earlier are stored so.</summary>
    private const int BeforeContacts = 2;

    public static byte[] Write(TakeData data)
    {
        using var stream = new MemoryStream();
        using (var w = new BinaryWriter(stream, Encoding.UTF8, leaveOpen: true))
        {
            w.Write(Version);
            w.Write(data.CharacterName ?? string.Empty);
            WriteMarkers(w, data.Markers);
            WriteMotion(w, data.Performer);
            WriteMotion(w, data.Character);
            w.Write(data.Contacts.Count);
            foreach (var c in data.Contacts)
            {
                w.Write((int)c.Point);
                w.Write(c.Side);
                w.Write(c.Start);
                w.Write(c.End);
                w.Write(c.Planted);
            }

            w.Write(data.Pinned.Count);
            foreach (var p in data.Pinned)
            {
                w.Write(p.Name);
                w.Write(p.Start);
                w.Write(p.End);
            }

            w.Write(data.Automatic.Count);
            foreach (var name in data.Automatic)
            {
                w.Write(name);
            }
        }

        return stream.ToArray();
    }

    public static TakeData? Read(byte[] bytes)
    {
        using var r = new BinaryReader(new MemoryStream(bytes));
        var version = r.ReadInt32();
        if (version is not (BeforeContacts or Version))
        {
            return null;
        }

        var name = r.ReadString();
        var (markers, performer, character) = (ReadMarkers(r), ReadMotion(r), ReadMotion(r));
        var contacts = new ContactEdit[version == BeforeContacts ? 0 : r.ReadInt32()];
        for (var i = 0; i < contacts.Length; i++)
        {
            contacts[i] = new ContactEdit((ContactPoint)r.ReadInt32(), r.ReadChar(), r.ReadInt32(), r.ReadInt32(), r.ReadBoolean());
        }

        var pinned = new PinnedLabel[version == BeforeContacts ? 0 : r.ReadInt32()];
        for (var i = 0; i < pinned.Length; i++)
        {
            pinned[i] = new PinnedLabel(r.ReadString(), r.ReadInt32(), r.ReadInt32());
        }

        var automatic = new string[version == BeforeContacts ? 0 : r.ReadInt32()];
        for (var i = 0; i < automatic.Length; i++)
        {
            automatic[i] = r.ReadString();
        }

        return new TakeData(markers, performer, character, name.Length == 0 ? null : name)
        {
            Contacts = contacts,
            Pinned = pinned,
            Automatic = automatic,
        };
    }

    private static void WriteMarkers(BinaryWriter w, MarkerTake? take)
    {
        w.Write(take is not null);
        if (take is null)
        {
            return;
        }

        w.Write(take.FrameRate);
        w.Write(take.FrameCount);
        w.Write(take.MarkerCount);
        foreach (var n in take.Names)
        {
            w.Write(n);
        }

        w.Write(take.Bytes);
    }

    private static MarkerTake? ReadMarkers(BinaryReader r)
    {
        if (!r.ReadBoolean())
        {
            return null;
        }

        var rate = r.ReadDouble();
        var frames = r.ReadInt32();
        var names = new string[r.ReadInt32()];
        for (var i = 0; i < names.Length; i++)
        {
            names[i] = r.ReadString();
        }

        var positions = MemoryMarshal.Cast<byte, Vector3>(r.ReadBytes(frames * names.Length * 12)).ToArray();
        return new MarkerTake(names, rate, frames, positions);
    }

    private static void WriteMotion(BinaryWriter w, Motion? motion)
    {
        w.Write(motion is not null);
        if (motion is null)
        {
            return;
        }

        w.Write(motion.FrameRate);
        w.Write(motion.FrameCount);
        w.Write(motion.Skeleton.Count);
        foreach (var j in motion.Skeleton.Joints)
        {
            w.Write(j.Name);
            w.Write(j.Parent);
            w.Write(j.Role?.ToString() ?? string.Empty);
            w.Write(MemoryMarshal.AsBytes<Vector3>(new[] { j.Offset, j.EndSite ?? new Vector3(float.NaN) }));
            w.Write(MemoryMarshal.AsBytes<Quaternion>(new[] { j.RestRotation }));
        }

        w.Write(MemoryMarshal.AsBytes<Quaternion>(motion.Rotations));
        w.Write(MemoryMarshal.AsBytes<Vector3>(motion.Translations));
    }

    private static Motion? ReadMotion(BinaryReader r)
    {
        if (!r.ReadBoolean())
        {
            return null;
        }

        var rate = r.ReadDouble();
        var frames = r.ReadInt32();
        var joints = new Joint[r.ReadInt32()];
        for (var i = 0; i < joints.Length; i++)
        {
            var name = r.ReadString();
            var parent = r.ReadInt32();
            var role = r.ReadString();
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
        var rotations = MemoryMarshal.Cast<byte, Quaternion>(r.ReadBytes(n * 16)).ToArray();
        var translations = MemoryMarshal.Cast<byte, Vector3>(r.ReadBytes(n * 12)).ToArray();
        return new Motion(new Skeleton(joints), rate, frames, rotations, translations);
    }
}
