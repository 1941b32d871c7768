using System.Numerics;

namespace Eidolon.Core.Retargeting;

/// <summary>Corrections over time without a jolt.</summary>
internal static class Smoothing
{
    /// <summary>A smooth curve that is nowhere below the given one: a running maximum, then a moving mean twice.</summary>
    public static float[] Above(float[] values, int radius)
    {
        var n = values.Length;
        if (Array.TrueForAll(values, v => v <= 0))
        {
            return values;
        }

        var max = new float[n];
        for (var i = 0; i < n; i++)
        {
            for (var k = Math.Max(0, i - (2 * radius)); k <= Math.Min(n - 1, i + (2 * radius)); k++)
            {
                max[i] = MathF.Max(max[i], values[k]);
            }
        }

        return Mean(Mean(max, radius), radius);
    }

    /// <summary>A moving mean; both ends go on as they are.</summary>
    public static float[] Mean(float[] values, int radius)
    {
        var mean = new float[values.Length];
        for (var i = 0; i < mean.Length; i++)
        {
            double sum = 0;
            for (var k = i - radius; k <= i + radius; k++)
            {
                sum += values[Math.Clamp(k, 0, mean.Length - 1)];
            }

            mean[i] = (float)(sum / ((2 * radius) + 1));
        }

        return mean;
    }

    /// <inheritdoc cref="Mean(float[], int)"/>
    public static Vector3[] Mean(Vector3[] values, int radius)
    {
        var mean = new Vector3[values.Length];
        for (var i = 0; i < mean.Length; i++)
        {
            var sum = Vector3.Zero;
            for (var k = i - radius; k <= i + radius; k++)
            {
                sum += values[Math.Clamp(k, 0, mean.Length - 1)];
            }

            mean[i] = sum / ((2 * radius) + 1);
        }

        return mean;
    }
}
