using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Solving;

/// <summary>How far each marker is seen from its place on the solved body, frame by frame, in the axes of its own bone.</summary>
/// <remarks>What stays in a bone's axes belongs to the marker (it slipped, it was measured wrong); what comes and goes is skin and noise.</remarks>
public sealed class BoneOffsets
{
    private readonly Vector3[] _offsets;

    /// <summary>Looks at every marker of the performer.</summary>
    /// <param name="motion">Solved from <paramref name="take"/>, on the performer's skeleton.</param>
    /// <param name="take">The performer's own markers, without what stands before their names.</param>
    public BoneOffsets(Performer performer, Motion motion, MarkerTake take)
    {
        Performer = performer;
        FrameCount = Math.Min(motion.FrameCount, take.FrameCount);
        var n = performer.Markers.Count;
        _offsets = new Vector3[FrameCount * n];
        var columns = performer.Markers.Select(m => take.IndexOf(m.Name)).ToArray();
        var (turns, places) = (new Quaternion[motion.Skeleton.Count], new Vector3[motion.Skeleton.Count]);
        for (var f = 0; f < FrameCount; f++)
        {
            ForwardKinematics.World(motion, f, turns, places);
            for (var m = 0; m < n; m++)
            {
                var marker = performer.Markers[m];
                _offsets[(f * n) + m] =
                    columns[m] >= 0 && take[f, columns[m]] is var seen && MarkerTake.Seen(seen)
                        ? Vector3.Transform(seen - places[marker.Joint], Quaternion.Conjugate(turns[marker.Joint])) - marker.Offset
                        : MarkerTake.Hidden;
            }
        }
    }

    /// <summary>Whose markers.</summary>
    public Performer Performer { get; }

    /// <summary>Frames.</summary>
    public int FrameCount { get; }

    /// <summary>One marker at one frame, metres in its bone's axes; hidden where it is not seen.</summary>
    /// <param name="marker">Index among the performer's markers.</param>
    public Vector3 this[int frame, int marker] => _offsets[(frame * Performer.Markers.Count) + marker];

    /// <summary>RMS distance of some markers frame by frame, millimetres; null where none of them is seen.</summary>
    public double?[] Residuals(IReadOnlyList<int> markers)
    {
        var result = new double?[FrameCount];
        for (var f = 0; f < FrameCount; f++)
        {
            double sum = 0;
            var n = 0;
            foreach (var m in markers)
            {
                if (this[f, m] is var off && MarkerTake.Seen(off))
                {
                    sum += off.LengthSquared();
                    n++;
                }
            }

            result[f] = n == 0 ? null : Math.Sqrt(sum / n) * 1000;
        }

        return result;
    }
}
