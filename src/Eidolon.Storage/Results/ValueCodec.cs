using System.Numerics;
using System.Runtime.InteropServices;
using System.Text;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;

namespace Eidolon.Storage.Results;

/// <summary>
/// A value as a head and parts. A part is one channel over the whole time: a marker's way, a joint's turns; so a value that changes a few
/// channels shares all others with the one before it, and no part nears the size a row or a file should have.
/// </summary>
internal static class ValueCodec
{
    private const byte Version = 1;

    /// <param name="part">Takes the bytes of one part, in order; they are only lent.</param>
    /// <returns>The head: everything but the samples.</returns>
    public static byte[] Write(NodeValue value, Action<ReadOnlySpan<byte>> part)
    {
        using var stream = new MemoryStream();
        using var w = new BinaryWriter(stream, Encoding.UTF8);
        w.Write(Version);
        switch (value)
        {
            case MarkerValue m:
                w.Write((byte)1);
                Write(w, m);
                Columns(m.Take.Positions, m.Take.MarkerCount, part);
                break;
            case MotionValue m:
                w.Write((byte)2);
                Write(w, m);
                Columns(m.Motion.Rotations, m.Motion.Skeleton.Count, part);
                Columns(m.Motion.Translations, m.Motion.Skeleton.Count, part);
                break;
            case PlacesValue p:
                w.Write((byte)3);
                w.Write(p.Places.FrameRate);
                w.Write(p.Places.FrameCount);
                w.Write(p.Places.FirstFrame);
                Columns(p.Places.Positions, 1, part);
                Columns(p.Places.Turns, 1, part);
                break;
            default:
                throw new NotSupportedException($"{value.GetType().Name} cannot be stored");
        }

        w.Flush();
        return stream.ToArray();
    }

    /// <param name="part">Gives the next part's bytes; null when it is gone or damaged.</param>
    /// <returns>Null when a part is missing or the head is of another version.</returns>
    public static NodeValue? Read(byte[] head, Func<byte[]?> part)
    {
        using var r = new BinaryReader(new MemoryStream(head), Encoding.UTF8);
        if (r.ReadByte() != Version)
        {
            return null;
        }

        return r.ReadByte() switch
        {
            1 => ReadMarkers(r, part),
            2 => ReadMotion(r, part),
            3 => ReadPlaces(r, part),
            _ => null,
        };
    }

    private static void Write(BinaryWriter w, MarkerValue m)
    {
        w.Write(m.Take.FrameRate);
        w.Write(m.Take.FrameCount);
        w.Write(m.Take.FirstFrame);
        Write(w, m.Take.Names);
        w.Write(m.Pinned.Count);
        foreach (var p in m.Pinned)
        {
            w.Write(p.Name);
            w.Write(p.Start);
            w.Write(p.End);
        }

        Write(w, m.Automatic);
    }

    private static MarkerValue? ReadMarkers(BinaryReader r, Func<byte[]?> part)
    {
        var (rate, frames, first, names) = (r.ReadDouble(), r.ReadInt32(), r.ReadInt32(), ReadNames(r));
        var pinned = new PinnedLabel[r.ReadInt32()];
        for (var i = 0; i < pinned.Length; i++)
        {
            pinned[i] = new PinnedLabel(r.ReadString(), r.ReadInt32(), r.ReadInt32());
        }

        var automatic = ReadNames(r);
        var positions = new Vector3[frames * names.Length];
        return Columns(positions, names.Length, part)
            ? new MarkerValue(new MarkerTake(names, rate, frames, positions) { FirstFrame = first })
            {
                Pinned = pinned,
                Automatic = automatic,
            }
            : null;
    }

    private static void Write(BinaryWriter w, MotionValue m)
    {
        w.Write(m.Motion.FrameRate);
        w.Write(m.Motion.FrameCount);
        w.Write(m.Motion.FirstFrame);
        w.Write(m.Motion.Skeleton.Count);
        foreach (var j in m.Motion.Skeleton.Joints)
        {
            w.Write(j.Name);
            w.Write(j.Parent);
            w.Write(j.Role?.ToString() ?? string.Empty);
            w.Write(MemoryMarshal.AsBytes<Vector3>(new[] { j.Offset, j.EndSite ?? new Vector3(float.NaN) }));
            w.Write(MemoryMarshal.AsBytes<Quaternion>(new[] { j.RestRotation }));
        }

        w.Write(m.Contacts.Count);
        foreach (var c in m.Contacts)
        {
            w.Write((int)c.Point);
            w.Write(c.Side);
            w.Write(c.Start);
            w.Write(c.End);
            w.Write(c.Planted);
        }

        w.Write(m.Motion.Morphs.Count);
        foreach (var (name, weights) in m.Motion.Morphs)
        {
            w.Write(name);
            w.Write(weights.Length);
            w.Write(MemoryMarshal.AsBytes<float>(weights));
        }
    }

    private static MotionValue? ReadMotion(BinaryReader r, Func<byte[]?> part)
    {
        var (rate, frames, first) = (r.ReadDouble(), r.ReadInt32(), r.ReadInt32());
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

        var contacts = new ContactEdit[r.ReadInt32()];
        for (var i = 0; i < contacts.Length; i++)
        {
            contacts[i] = new ContactEdit((ContactPoint)r.ReadInt32(), r.ReadChar(), r.ReadInt32(), r.ReadInt32(), r.ReadBoolean());
        }

        var morphs = new Dictionary<string, float[]>(StringComparer.Ordinal);
        for (var n = r.ReadInt32(); n > 0; n--)
        {
            var name = r.ReadString();
            morphs[name] = MemoryMarshal.Cast<byte, float>(r.ReadBytes(r.ReadInt32() * 4)).ToArray();
        }

        var turns = new Quaternion[frames * joints.Length];
        var places = new Vector3[turns.Length];
        return Columns(turns, joints.Length, part) && Columns(places, joints.Length, part)
            ? new MotionValue(new Motion(new Skeleton(joints), rate, frames, turns, places) { FirstFrame = first, Morphs = morphs })
            {
                Contacts = contacts,
            }
            : null;
    }

    private static PlacesValue? ReadPlaces(BinaryReader r, Func<byte[]?> part)
    {
        var (rate, frames, first) = (r.ReadDouble(), r.ReadInt32(), r.ReadInt32());
        var (positions, turns) = (new Vector3[frames], new Quaternion[frames]);
        return Columns(positions, 1, part) && Columns(turns, 1, part)
            ? new PlacesValue(new PropPlaces(rate, positions, turns, first))
            : null;
    }

    /// <summary>Each of [frame × width + column] as a part of its own; one that never changes is written as its first sample.</summary>
    private static void Columns<T>(T[] samples, int width, Action<ReadOnlySpan<byte>> part)
        where T : unmanaged
    {
        var frames = width == 0 ? 0 : samples.Length / width;
        var column = new T[frames];
        for (var c = 0; c < width; c++)
        {
            for (var (f, at) = (0, c); f < frames; f++, at += width)
            {
                column[f] = samples[at];
            }

            var bytes = MemoryMarshal.AsBytes<T>(column);
            part(Constant<T>(bytes, frames) ? bytes[..Marshal.SizeOf<T>()] : bytes);
        }
    }

    private static bool Columns<T>(T[] samples, int width, Func<byte[]?> part)
        where T : unmanaged
    {
        var frames = width == 0 ? 0 : samples.Length / width;
        for (var c = 0; c < width; c++)
        {
            if (part() is not { } bytes)
            {
                return false;
            }

            var column = MemoryMarshal.Cast<byte, T>(bytes);
            if (column.Length != frames && column.Length != 1)
            {
                return false;
            }

            for (var (f, at) = (0, c); f < frames; f++, at += width)
            {
                samples[at] = column[column.Length == 1 ? 0 : f];
            }
        }

        return true;
    }

    private static bool Constant<T>(ReadOnlySpan<byte> bytes, int frames)
        where T : unmanaged
    {
        var size = Marshal.SizeOf<T>();
        return frames > 1 && bytes[size..].SequenceEqual(bytes[..^size]);
    }

    private static void Write(BinaryWriter w, IReadOnlyList<string> names)
    {
        w.Write(names.Count);
        foreach (var name in names)
        {
            w.Write(name);
        }
    }

    private static string[] ReadNames(BinaryReader r)
    {
        var names = new string[r.ReadInt32()];
        for (var i = 0; i < names.Length; i++)
        {
            names[i] = r.ReadString();
        }

        return names;
    }
}
