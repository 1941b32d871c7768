using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Cleaning;

/// <summary>Brings a proposal to the seen samples at both ends: what it is off there is carried into the gap.</summary>
internal static class EdgeFit
{
    /// <summary>Samples at each end that the offset is taken from.</summary>
    public const int Edge = 4;

    /// <param name="off">Seen minus proposed at a frame, or null where it cannot be said.</param>
    /// <param name="memory">Frames after which an offset is forgotten; infinite carries it across in full.</param>
    /// <param name="sides">Which sides are there at all: with one alone its offset is carried right across.</param>
    public static void Carry(Span<Vector3> values, Gap gap, Func<int, Vector3?> off, double memory, (bool Before, bool After)? sides = null)
    {
        var (a, b) = (Mean(gap.Start - 1, -1, off), Mean(gap.End + 1, 1, off));
        var length = gap.Length + 1.0;
        for (var k = 0; k < values.Length; k++)
        {
            double da = k + 1,
                db = length - da;
            double wa,
                wb;
            if (sides is { } one && one.Before != one.After)
            {
                (wa, wb) = one.Before ? (1, 0) : (0, 1);
            }
            else if (double.IsInfinity(memory))
            {
                (wa, wb) = (1 - Smooth(da / length), Smooth(da / length));
            }
            else
            {
                // The best linear guess from both ends when offsets fade as exp(−distance / memory).
                double ka = Math.Exp(-da / memory),
                    kb = Math.Exp(-db / memory),
                    c = Math.Exp(-length / memory);
                var det = 1 - (c * c) + 1e-9;
                (wa, wb) = ((ka - (c * kb)) / det, (kb - (c * ka)) / det);
            }

            values[k] += (a * (float)wa) + (b * (float)wb);
        }
    }

    private static double Smooth(double s) => s * s * s * (10 + (s * (-15 + (6 * s))));

    private static Vector3 Mean(int from, int direction, Func<int, Vector3?> off)
    {
        var sum = Vector3.Zero;
        var n = 0;
        for (var k = 0; k < Edge && off(from + (k * direction)) is { } o; k++)
        {
            sum += o;
            n++;
        }

        return n == 0 ? Vector3.Zero : sum / n;
    }
}
