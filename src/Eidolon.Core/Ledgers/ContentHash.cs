using System.IO.Hashing;
using System.Numerics;
using System.Runtime.InteropServices;
using System.Text;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Ledgers;

/// <summary>
/// A hash of everything a value says: names, rate, skeleton, decisions and every sample. Values with the same hash are the same, whatever they
/// were made of. XxHash128 (Collet): not against forgers, but no accident in the life of a studio makes two alike.
/// </summary>
public static class ContentHash
{
    /// <summary>Of a value with all that it holds.</summary>
    public static UInt128 Of(NodeValue value)
    {
        var hash = new XxHash128();
        switch (value)
        {
            case MarkerValue m:
                Add(hash, "markers");
                Add(hash, m.Take);
                foreach (var p in m.Pinned)
                {
                    Add(hash, $"{p.Name}|{p.Start}|{p.End}");
                }

                Add(hash, string.Join('|', m.Automatic));
                break;
            case MotionValue m:
                Add(hash, "motion");
                Add(hash, m.Motion);
                Add(hash, m.Contacts);
                break;
            case PlacesValue p:
                Add(hash, $"places|{p.Places.FrameRate:R}|{p.Places.FirstFrame}|{p.Places.FrameCount}");
                hash.Append(MemoryMarshal.AsBytes<Vector3>(p.Places.Positions));
                hash.Append(MemoryMarshal.AsBytes<Quaternion>(p.Places.Turns));
                break;
            case SuitValue s:
                Add(hash, $"suit|{s.Take.FrameRate:R}|{s.Take.FrameCount}");
                hash.Append(MemoryMarshal.AsBytes<float>(s.Take.Samples));
                Add(hash, s.Contacts);
                break;
            case FilmValue f:
                Add(hash, $"film|{f.Films.Count}");
                Add(hash, f);
                Add(hash, f.Contacts);
                break;
            case RecordedValue r:
                Add(hash, Recorded(r.FrameRate, r.Frames, r.Suit is null ? 0 : Of(r.Suit), r.Films is null ? 0 : Of(r.Films)));
                Add(hash, r.Contacts);
                break;
            default:
                throw new NotSupportedException($"{value.GetType().Name} has no hash");
        }

        return hash.GetCurrentHashAsUInt128();
    }

    /// <summary>The hash of a performance that was recorded in several ways, by those of its parts; 0 for one there is not.</summary>
    public static UInt128 OfRecorded(double frameRate, int frames, UInt128 suit, UInt128 films)
    {
        var hash = new XxHash128();
        Add(hash, Recorded(frameRate, frames, suit, films));
        return hash.GetCurrentHashAsUInt128();
    }

    private static string Recorded(double frameRate, int frames, UInt128 suit, UInt128 films) =>
        $"recorded|{frameRate:R}|{frames}|{Text(suit)}|{Text(films)}";

    /// <summary>The hash of a text, e.g. a library version's JSON.</summary>
    public static UInt128 Of(string text) => XxHash128.HashToUInt128(Encoding.UTF8.GetBytes(text));

    /// <summary>Of bytes.</summary>
    public static UInt128 Of(ReadOnlySpan<byte> bytes) => XxHash128.HashToUInt128(bytes);

    /// <summary>As it is stored and sent: 32 hexadecimal digits.</summary>
    public static string Text(UInt128 hash) => hash.ToString("x32");

    /// <summary>Reads 32 hexadecimal digits.</summary>
    public static bool TryParse(string? text, out UInt128 hash) =>
        UInt128.TryParse(text, System.Globalization.NumberStyles.HexNumber, System.Globalization.CultureInfo.InvariantCulture, out hash);

    private static void Add(XxHash128 hash, IReadOnlyList<ContactEdit> contacts)
    {
        foreach (var c in contacts)
        {
            Add(hash, $"{c.Point}|{c.Side}|{c.Start}|{c.End}|{c.Planted}");
        }
    }

    private static void Add(XxHash128 hash, FilmValue value)
    {
        foreach (var (film, camera) in value.Films.Zip(value.Cameras))
        {
            Add(hash, $"{film.FrameRate:R}|{film.FrameCount}|{string.Join('|', film.Names)}");
            hash.Append(MemoryMarshal.AsBytes<float>(film.Values));
            Add(hash, CameraRingJson.Write(camera).ToJsonString());
        }

        foreach (var x in value.Fixes)
        {
            Add(hash, $"{x.Film}|{x.Frame}|{x.Point}|{x.U:R}|{x.V:R}");
        }
    }

    private static void Add(XxHash128 hash, MarkerTake take)
    {
        Add(hash, $"{take.FrameRate:R}|{take.FirstFrame}|{take.FrameCount}|{take.MarkerCount}");
        Add(hash, string.Join('\n', take.Names));
        hash.Append(take.Bytes);
    }

    private static void Add(XxHash128 hash, Motion motion)
    {
        Add(hash, $"{motion.FrameRate:R}|{motion.FirstFrame}|{motion.FrameCount}|{motion.Skeleton.Count}");
        foreach (var j in motion.Skeleton.Joints)
        {
            Add(hash, $"{j.Name}|{j.Parent}|{j.Role}");
            hash.Append(MemoryMarshal.AsBytes<Vector3>(new[] { j.Offset, j.EndSite ?? new Vector3(float.NaN) }));
            hash.Append(MemoryMarshal.AsBytes<Quaternion>(new[] { j.RestRotation }));
        }

        hash.Append(MemoryMarshal.AsBytes<Quaternion>(motion.Rotations));
        hash.Append(MemoryMarshal.AsBytes<Vector3>(motion.Translations));
        foreach (var (name, weights) in motion.Morphs.OrderBy(m => m.Key, StringComparer.Ordinal))
        {
            Add(hash, name);
            hash.Append(MemoryMarshal.AsBytes<float>(weights));
        }
    }

    private static void Add(XxHash128 hash, string text)
    {
        var bytes = Encoding.UTF8.GetBytes(text);
        hash.Append(BitConverter.GetBytes(bytes.Length));
        hash.Append(bytes);
    }
}
