using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Cleaning;

/// <summary>
/// The frame of a few markers that hardly move against each other: the world is turned and shifted so that they lie as they did at one moment.
/// </summary>
internal sealed class LocalFrame
{
    private readonly MarkerTake _take;
    private readonly int[] _base;
    private readonly Vector3[] _shape;

    /// <param name="markers">Three or more, seen at <paramref name="moment"/>.</param>
    public LocalFrame(MarkerTake take, int[] markers, int moment) =>
        (_take, _base, _shape) = (take, markers, Array.ConvertAll(markers, m => take[moment, m]));

    /// <summary>Remembers the frames of a stretch once they are worked out.</summary>
    public LocalFrame Remembering(int from, int to)
    {
        (_from, _known, _memory) = (from, new bool[to - from], new (Quaternion, Vector3)[to - from]);
        return this;
    }

    private int _from;
    private bool[] _known = [];
    private (Quaternion Turn, Vector3 Shift)[] _memory = [];

    /// <summary>World to local at a frame: x' = q·x + t.</summary>
    public (Quaternion Turn, Vector3 Shift) At(int frame)
    {
        var k = frame - _from;
        if (k < 0 || k >= _known.Length)
        {
            return Fit(frame);
        }

        if (!_known[k])
        {
            (_memory[k], _known[k]) = (Fit(frame), true);
        }

        return _memory[k];
    }

    private (Quaternion Turn, Vector3 Shift) Fit(int frame)
    {
        Span<Vector3> now = stackalloc Vector3[_base.Length];
        for (var i = 0; i < now.Length; i++)
        {
            now[i] = _take[frame, _base[i]];
        }

        var (q, t, _) = Kabsch.Fit(now, _shape);
        return (q, t);
    }

    /// <summary>Back to the world.</summary>
    public static Vector3 Out((Quaternion Turn, Vector3 Shift) frame, Vector3 local) =>
        Vector3.Transform(local - frame.Shift, Quaternion.Conjugate(frame.Turn));

    public static Vector3 In((Quaternion Turn, Vector3 Shift) frame, Vector3 world) => Vector3.Transform(world, frame.Turn) + frame.Shift;
}
