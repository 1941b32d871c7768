using System.Numerics;
using System.Runtime.InteropServices;

namespace Eidolon.Core.Markers;

/// <summary>Marker positions of a take: [frame × markers + marker], metres, Y up; NaN where a marker is not seen.</summary>
public sealed class MarkerTake
{
    /// <summary>A take in which nothing is seen yet.</summary>
    public MarkerTake(IReadOnlyList<string> names, double frameRate, int frameCount)
        : this(names, frameRate, frameCount, Fill(checked(names.Count * frameCount))) { }

    /// <summary>A take over given samples, which are not copied.</summary>
    public MarkerTake(IReadOnlyList<string> names, double frameRate, int frameCount, Vector3[] positions)
    {
        if (positions.Length != names.Count * frameCount)
        {
            throw new ArgumentException("Samples do not match frames × markers.", nameof(positions));
        }

        (Names, FrameRate, FrameCount, Positions) = (names, frameRate, frameCount, positions);
    }

    /// <summary>One name a column, each once.</summary>
    public IReadOnlyList<string> Names { get; }

    /// <summary>Frames a second.</summary>
    public double FrameRate { get; }

    /// <summary>Frames, the first one 0.</summary>
    public int FrameCount { get; }

    /// <summary>The number the file gives its first frame.</summary>
    public int FirstFrame { get; init; }

    /// <summary>Places in metres, y up, frame by frame: frame × <see cref="MarkerCount"/> + marker.</summary>
    public Vector3[] Positions { get; }

    /// <summary>What reading had to say.</summary>
    public IReadOnlyList<string> Warnings { get; init; } = [];

    /// <summary>Columns.</summary>
    public int MarkerCount => Names.Count;

    /// <summary>All markers of a frame.</summary>
    public Span<Vector3> At(int frame) => Positions.AsSpan(frame * MarkerCount, MarkerCount);

    /// <summary>One sample, metres; not a number where it is hidden.</summary>
    public ref Vector3 this[int frame, int marker] => ref Positions[(frame * MarkerCount) + marker];

    /// <summary>A sample that is a place.</summary>
    public static bool Seen(Vector3 p) => !float.IsNaN(p.X);

    /// <summary>What stands for a hidden sample.</summary>
    public static Vector3 Hidden { get; } = new(float.NaN);

    /// <summary>Column of a name, −1 when there is none.</summary>
    public int IndexOf(string name)
    {
        for (var i = 0; i < Names.Count; i++)
        {
            if (Names[i] == name)
            {
                return i;
            }
        }

        return -1;
    }

    /// <summary>Frames in which a marker is seen.</summary>
    public int VisibleFrames(int marker)
    {
        var n = 0;
        for (var f = 0; f < FrameCount; f++)
        {
            n += Seen(this[f, marker]) ? 1 : 0;
        }

        return n;
    }

    /// <summary>Every run of frames without the marker, the ends of the take included.</summary>
    public List<Gap> Gaps(int marker)
    {
        var gaps = new List<Gap>();
        var start = -1;
        for (var f = 0; f <= FrameCount; f++)
        {
            var hidden = f < FrameCount && !Seen(this[f, marker]);
            if (hidden && start < 0)
            {
                start = f;
            }
            else if (!hidden && start >= 0)
            {
                gaps.Add(new Gap(start, f - 1));
                start = -1;
            }
        }

        return gaps;
    }

    /// <summary>The same with samples of its own.</summary>
    public MarkerTake Copy() => With((Vector3[])Positions.Clone());

    /// <summary>The same names and rate over other samples, which are not copied.</summary>
    public MarkerTake With(Vector3[] positions) =>
        new(Names, FrameRate, FrameCount, positions) { FirstFrame = FirstFrame, Warnings = Warnings };

    /// <summary>The same samples under other names.</summary>
    public MarkerTake Renamed(IReadOnlyList<string> names) =>
        new(names, FrameRate, FrameCount, Positions) { FirstFrame = FirstFrame, Warnings = Warnings };

    /// <summary>Only the named markers that are present, in the given order.</summary>
    public MarkerTake Only(IReadOnlyList<string> names)
    {
        var keep = names.Where(n => IndexOf(n) >= 0).ToArray();
        var from = Array.ConvertAll(keep, IndexOf);
        var result = new MarkerTake(keep, FrameRate, FrameCount) { FirstFrame = FirstFrame };
        for (var f = 0; f < FrameCount; f++)
        {
            for (var m = 0; m < keep.Length; m++)
            {
                result[f, m] = this[f, from[m]];
            }
        }

        return result;
    }

    /// <summary>Frames [start, end).</summary>
    public MarkerTake Range(int start, int end) =>
        new(Names, FrameRate, end - start, Positions.AsSpan(start * MarkerCount, (end - start) * MarkerCount).ToArray())
        {
            FirstFrame = FirstFrame + start,
            Warnings = Warnings,
        };

    /// <summary>The samples as little-endian float32 x, y, z, as stored and sent.</summary>
    public ReadOnlySpan<byte> Bytes => MemoryMarshal.AsBytes<Vector3>(Positions);

    private static Vector3[] Fill(int count)
    {
        var a = new Vector3[count];
        Array.Fill(a, Hidden);
        return a;
    }
}
