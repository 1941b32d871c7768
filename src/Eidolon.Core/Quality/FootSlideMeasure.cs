using System.Numerics;

namespace Eidolon.Core.Quality;

/// <summary>Horizontal path of a planted joint.</summary>
public static class FootSlideMeasure
{
    /// <summary>Length of the way over the floor between two frames, metres.</summary>
    public static double Slide(ReadOnlySpan<Vector3> world, int joints, int joint, int start, int end)
    {
        double sum = 0;
        for (var f = start + 1; f <= end; f++)
        {
            var d = world[(f * joints) + joint] - world[((f - 1) * joints) + joint];
            sum += Math.Sqrt((d.X * d.X) + (d.Z * d.Z));
        }

        return sum;
    }

    /// <summary>Farthest horizontal distance from where the joint stood in the middle of the range, metres.</summary>
    public static double Reach(ReadOnlySpan<Vector3> world, int joints, int joint, int start, int end)
    {
        var middle = world[((start + end) / 2 * joints) + joint];
        double worst = 0;
        for (var f = start; f <= end; f++)
        {
            var d = world[(f * joints) + joint] - middle;
            worst = Math.Max(worst, Math.Sqrt((d.X * d.X) + (d.Z * d.Z)));
        }

        return worst;
    }
}
