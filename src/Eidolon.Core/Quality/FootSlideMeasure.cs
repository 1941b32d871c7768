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
}
