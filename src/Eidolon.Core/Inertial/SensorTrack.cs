using Eidolon.Core.Geometry;

namespace Eidolon.Core.Inertial;

/// <summary>One sensor's samples in doubles; what was lost is drawn as a line between its neighbours and remembered.</summary>
internal sealed class SensorTrack
{
    /// <param name="sensor">Index into <see cref="SuitBones.All"/>.</param>
    public SensorTrack(SuitTake take, int sensor)
    {
        (Rate, Count) = (take.FrameRate, take.FrameCount);
        (Gyroscope, Accelerometer, Magnetometer) = (new Vector3d[Count], new Vector3d[Count], new Vector3d[Count]);
        var lost = new bool[Count];
        var own = new double[SuitTake.ValuesPerSensor][];
        for (var k = 0; k < own.Length; k++)
        {
            own[k] = Line(take, (sensor * SuitTake.ValuesPerSensor) + k, k < 3 ? lost : null);
        }

        Guess = Guessed(lost, take.FrameRate);

        for (var f = 0; f < Count; f++)
        {
            Gyroscope[f] = new(own[0][f], own[1][f], own[2][f]);
            Accelerometer[f] = new(own[3][f], own[4][f], own[5][f]);
            Magnetometer[f] = new(own[6][f], own[7][f], own[8][f]);
        }
    }

    public double Rate { get; }

    public int Count { get; }

    /// <summary>Rad/s.</summary>
    public Vector3d[] Gyroscope { get; }

    /// <summary>Specific force, m/s²: at rest it points up.</summary>
    public Vector3d[] Accelerometer { get; }

    /// <summary>µT.</summary>
    public Vector3d[] Magnetometer { get; }

    /// <summary>Variance of the turn over each frame where the gyroscope's samples were lost and a line was drawn, rad²; zero elsewhere.</summary>
    public double[] Guess { get; }

    /// <summary>The mean of a range.</summary>
    public static Vector3d Mean(Vector3d[] values, FrameRange range)
    {
        Vector3d sum = default;
        for (var f = range.Start; f <= range.End; f++)
        {
            sum += values[f];
        }

        return sum * (1.0 / range.Length);
    }

    /// <summary>A line over a hole of T seconds misses the turn by an angle that grows with T², as limbs gather and lose speed.</summary>
    private static double[] Guessed(bool[] lost, double rate)
    {
        const double acceleration = 5;
        var guess = new double[lost.Length];
        for (var f = 0; f < lost.Length; )
        {
            var end = f;
            while (end < lost.Length && lost[end])
            {
                end++;
            }

            var seconds = (end - f) / rate;
            for (var g = f; g < end; g++)
            {
                guess[g] = Math.Pow(acceleration * seconds * seconds, 2) / (end - f);
            }

            f = end + 1;
        }

        return guess;
    }

    private static double[] Line(SuitTake take, int at, bool[]? lost)
    {
        var values = new double[take.FrameCount];
        var last = -1;
        for (var f = 0; f < values.Length; f++)
        {
            var v = take.Samples[(f * SuitTake.Stride) + at];
            if (!float.IsFinite(v))
            {
                if (lost is not null)
                {
                    lost[f] = true;
                }

                continue;
            }

            values[f] = v;
            for (var g = last + 1; g < f; g++)
            {
                values[g] = last < 0 ? v : values[last] + ((v - values[last]) * (g - last) / (f - last));
            }

            last = f;
        }

        for (var g = last + 1; g < values.Length && last >= 0; g++)
        {
            values[g] = values[last];
        }

        return values;
    }
}
