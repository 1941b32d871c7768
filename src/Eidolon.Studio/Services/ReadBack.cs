using Eidolon.Core.Skeletons;

namespace Eidolon.Studio.Services;

/// <summary>Compares what a file was meant to hold with what is read back from it.</summary>
public static class ReadBack
{
    /// <summary>Largest distance of a joint, millimetres; infinite when joints or frames are missing.</summary>
    public static double Worst(Motion meant, Motion back)
    {
        if (meant.FrameCount != back.FrameCount || meant.Skeleton.Joints.Any(j => back.Skeleton.IndexOf(j.Name) < 0))
        {
            return double.PositiveInfinity;
        }

        var a = ForwardKinematics.WorldPositions(meant);
        var b = ForwardKinematics.WorldPositions(back);
        int n = meant.Skeleton.Count,
            m = back.Skeleton.Count;
        var map = meant.Skeleton.Joints.Select(j => back.Skeleton.IndexOf(j.Name)).ToArray();
        double worst = 0;
        for (var f = 0; f < meant.FrameCount; f++)
        {
            for (var j = 0; j < n; j++)
            {
                worst = Math.Max(worst, (a[(f * n) + j] - b[(f * m) + map[j]]).Length() * 1000);
            }
        }

        return worst;
    }
}
