using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Cleaning;

/// <summary>The marker carried by mates of the same segment, fitted at both ends and blended across.</summary>
internal static class RigidFill
{
    /// <summary>Null when fewer than three mates are seen throughout.</summary>
    public static Vector3[]? Fill(MarkerTake take, int marker, Gap gap, ReadOnlySpan<int> mates)
    {
        if (mates.Length < 3)
        {
            return null;
        }

        int a = gap.Start - 1,
            b = gap.End + 1;
        int[] used = [.. mates[..Math.Min(4, mates.Length)]];
        var (fromA, fromB) = (new LocalFrame(take, used, a), new LocalFrame(take, used, b));
        var values = new Vector3[gap.Length];
        for (var k = 0; k < values.Length; k++)
        {
            var f = gap.Start + k;
            var s = (float)Geometry.CubicSpline.MinimumJerk((k + 1) / (float)(gap.Length + 1));
            values[k] = Vector3.Lerp(LocalFrame.Out(fromA.At(f), take[a, marker]), LocalFrame.Out(fromB.At(f), take[b, marker]), s);
        }

        return values;
    }
}
