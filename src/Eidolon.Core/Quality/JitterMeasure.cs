using System.Numerics;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Quality;

/// <summary>RMS of acceleration above 15 Hz, m/s².</summary>
public static class JitterMeasure
{
    private const double Edge = 15;

    /// <summary>A rate tells nothing about what is quicker than half of it; a little more is needed for the filter.</summary>
    public static bool CanTell(double rate) => rate >= 2.2 * Edge;

    /// <summary>One path; NaN samples break it into pieces. NaN when no piece is long enough or the rate is too low to tell.</summary>
    public static double Measure(ReadOnlySpan<Vector3> path, double rate)
    {
        if (!CanTell(rate))
        {
            return double.NaN;
        }

        var filter = new Butterworth(Edge, rate);
        double sum = 0;
        long count = 0;
        var start = 0;
        for (var f = 0; f <= path.Length; f++)
        {
            if (f < path.Length && !float.IsNaN(path[f].X))
            {
                continue;
            }

            if (f - start >= 12)
            {
                Piece(path[start..f], filter, rate, ref sum, ref count);
            }

            start = f + 1;
        }

        return count == 0 ? double.NaN : Math.Sqrt(sum / count);
    }

    private static void Piece(ReadOnlySpan<Vector3> path, Butterworth filter, double rate, ref double sum, ref long count)
    {
        var n = path.Length;
        var data = new float[n];
        for (var axis = 0; axis < 3; axis++)
        {
            // Positions are taken relative to the first, which keeps single precision fine enough for second differences.
            for (var f = 0; f < n; f++)
            {
                data[f] = path[f][axis] - path[0][axis];
            }

            var high = (float[])data.Clone();
            filter.Apply(high, 0, 1, n);
            for (var f = 0; f < n; f++)
            {
                high[f] = data[f] - high[f];
            }

            for (var f = 1; f < n - 1; f++)
            {
                var a = (high[f + 1] - (2.0 * high[f]) + high[f - 1]) * rate * rate;
                sum += a * a;
            }
        }

        count += n - 2;
    }
}
