using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Cleaning;

/// <summary>A cubic with the slopes at both ends of the gap.</summary>
internal static class CurveFill
{
    public static Vector3[] Fill(MarkerTake take, int marker, Gap gap)
    {
        int a = gap.Start - 1,
            b = gap.End + 1;
        var length = b - a;
        Vector3 pa = take[a, marker],
            pb = take[b, marker];
        var ma = Slope(take, marker, a, -1) * length;
        var mb = Slope(take, marker, b, 1) * length;
        var values = new Vector3[gap.Length];
        for (var k = 0; k < values.Length; k++)
        {
            var t = (k + 1) / (float)length;
            values[k] = new Vector3(
                CubicSpline.Hermite(pa.X, ma.X, pb.X, mb.X, t),
                CubicSpline.Hermite(pa.Y, ma.Y, pb.Y, mb.Y, t),
                CubicSpline.Hermite(pa.Z, ma.Z, pb.Z, mb.Z, t)
            );
        }

        return values;
    }

    /// <summary>Change a frame at the edge of a gap, over up to four seen frames.</summary>
    private static Vector3 Slope(MarkerTake take, int marker, int frame, int direction)
    {
        var far = frame;
        while (
            Math.Abs(far - frame) < 4
            && far + direction >= 0
            && far + direction < take.FrameCount
            && MarkerTake.Seen(take[far + direction, marker])
        )
        {
            far += direction;
        }

        return far == frame ? Vector3.Zero : (take[far, marker] - take[frame, marker]) / (far - frame);
    }
}
