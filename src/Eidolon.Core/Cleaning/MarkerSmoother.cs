using System.Numerics;
using System.Runtime.InteropServices;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Cleaning;

/// <summary>Zero-phase low-pass of every seen piece of every trajectory.</summary>
public static class MarkerSmoother
{
    /// <returns>The smoothed take and the share of kinetic energy kept (0 to 1).</returns>
    public static (MarkerTake Take, double EnergyKept) Smooth(MarkerTake take, double cutoff)
    {
        var filter = new Butterworth(cutoff, take.FrameRate);
        var result = take.Copy();
        double before = 0, after = 0;
        for (var m = 0; m < take.MarkerCount; m++)
        {
            var start = 0;
            for (var f = 0; f <= take.FrameCount; f++)
            {
                if (f < take.FrameCount && MarkerTake.Seen(take[f, m]))
                {
                    continue;
                }

                if (f - start >= 8)
                {
                    var floats = MemoryMarshal.Cast<Vector3, float>(result.Positions.AsSpan());
                    for (var axis = 0; axis < 3; axis++)
                    {
                        filter.Apply(floats, (((start * take.MarkerCount) + m) * 3) + axis, take.MarkerCount * 3, f - start);
                    }

                    for (var k = start + 1; k < f; k++)
                    {
                        before += (take[k, m] - take[k - 1, m]).LengthSquared();
                        after += (result[k, m] - result[k - 1, m]).LengthSquared();
                    }
                }

                start = f + 1;
            }
        }

        return (result, before > 0 ? after / before : 1);
    }
}
