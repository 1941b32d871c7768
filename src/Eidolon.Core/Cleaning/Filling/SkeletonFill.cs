using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Cleaning;

/// <summary>
/// Where the solved skeleton carries the marker; what it is off at both ends goes along with the bone. At an end of the take only one side is known, and
/// of a marker that is never seen nothing but its place on the body.
/// </summary>
internal static class SkeletonFill
{
    /// <param name="gap">The stretch to fill.</param>
    /// <param name="real">The gap whose hidden markers are hidden in the stretch: itself, but for a trial.</param>
    /// <param name="hide">The marker is seen there and must not be looked at.</param>
    /// <returns>Null when the skeleton does not carry this marker there.</returns>
    public static Vector3[]? Fill(MarkerTake take, int marker, Gap gap, Gap real, bool hide, SkeletonCarrier? skeleton)
    {
        if (skeleton?.Carry(marker, real, gap.Start - real.Start, hide) is not { } carried)
        {
            return null;
        }

        var values = new Vector3[gap.Length];
        // A trial knows no more sides than the gap it stands for.
        bool before = real.Start > 0,
            after = real.End < take.FrameCount - 1;
        EdgeFit.Carry(
            values,
            gap,
            f =>
                (f < gap.Start ? before : after)
                && f - carried.First is var k
                && k >= 0
                && k < carried.Places.Length
                && MarkerTake.Seen(take[f, marker])
                    ? Vector3.Transform(take[f, marker] - carried.Places[k], Quaternion.Conjugate(carried.Turns[k]))
                    : null,
            double.PositiveInfinity,
            (before, after)
        );
        for (var i = 0; i < values.Length; i++)
        {
            var k = gap.Start + i - carried.First;
            values[i] = carried.Places[k] + Vector3.Transform(values[i], carried.Turns[k]);
        }

        return values;
    }
}
