using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Cleaning;

/// <summary>Where the solved skeleton carries the marker, brought to the seen samples at both ends.</summary>
internal static class SkeletonFill
{
    /// <summary>Null when the skeleton does not carry this marker.</summary>
    public static Vector3[]? Fill(MarkerTake take, int marker, Gap gap, MarkerTake? model)
    {
        var column = model?.IndexOf(take.Names[marker]) ?? -1;
        if (column < 0 || Enumerable.Range(gap.Start - 1, gap.Length + 2).Any(f => !MarkerTake.Seen(model![f, column])))
        {
            return null;
        }

        var values = new Vector3[gap.Length];
        for (var k = 0; k < values.Length; k++)
        {
            values[k] = model![gap.Start + k, column];
        }

        EdgeFit.Carry(
            values,
            gap,
            f =>
                f >= 0 && f < take.FrameCount && MarkerTake.Seen(take[f, marker]) && MarkerTake.Seen(model![f, column])
                    ? take[f, marker] - model[f, column]
                    : null,
            double.PositiveInfinity
        );
        return values;
    }
}
