using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Markers;

/// <summary>Whole-take edits for import and export.</summary>
public static class MarkerEdits
{
    /// <summary>Resamples linearly; a marker is seen where both neighbours are.</summary>
    public static MarkerTake Resample(MarkerTake take, double rate)
    {
        SampleBudget.Check(
            $"the take at {rate:0.###} frames a second",
            take.FrameCount / take.FrameRate * rate,
            take.MarkerCount,
            SampleBudget.MarkerBytes
        );
        var count = MotionEdits.WholeFrames(take.FrameCount, take.FrameRate, rate);
        var result = new MarkerTake(take.Names, rate, count) { Warnings = take.Warnings };
        for (var i = 0; i < count; i++)
        {
            var at = Math.Min(i / rate * take.FrameRate, take.FrameCount - 1);
            var f = (int)at;
            var g = Math.Min(f + 1, take.FrameCount - 1);
            var t = (float)(at - f);
            for (var m = 0; m < take.MarkerCount; m++)
            {
                result[i, m] =
                    t < 1e-5f ? take[f, m]
                    : t > 1 - 1e-5f ? take[g, m]
                    : Vector3.Lerp(take[f, m], take[g, m], t);
            }
        }

        return result;
    }
}
