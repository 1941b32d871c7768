namespace Eidolon.Core.Inertial;

/// <summary>What a suit's sensors measured: a gyroscope, an accelerometer and a magnetometer on each bone of <see cref="SuitBones.All"/>.</summary>
public sealed class SuitTake
{
    /// <summary>Values of one sensor: gyroscope (rad/s), accelerometer (m/s²), magnetometer (µT), three each, in the sensor's own axes.</summary>
    public const int ValuesPerSensor = 9;

    /// <summary>Values of one frame.</summary>
    public static int Stride => SuitBones.All.Count * ValuesPerSensor;

    /// <param name="samples">[frame × <see cref="Stride"/> + sensor × 9 + value]; NaN where a sample was lost. Not copied.</param>
    /// <exception cref="ArgumentException">The samples are no whole number of frames, or the rate is not above zero.</exception>
    public SuitTake(double frameRate, float[] samples)
    {
        if (!(frameRate > 0) || !double.IsFinite(frameRate))
        {
            throw new ArgumentException("The frame rate must be above zero.", nameof(frameRate));
        }

        if (samples.Length == 0 || samples.Length % Stride != 0)
        {
            throw new ArgumentException("Samples do not fill whole frames.", nameof(samples));
        }

        (FrameRate, Samples) = (frameRate, samples);
    }

    /// <summary>Frames a second.</summary>
    public double FrameRate { get; }

    /// <summary>Frames, the first one 0.</summary>
    public int FrameCount => Samples.Length / Stride;

    /// <summary>All values, [frame × <see cref="Stride"/> + sensor × 9 + value].</summary>
    public float[] Samples { get; }

    /// <summary>What reading it had to say.</summary>
    public IReadOnlyList<string> Warnings { get; init; } = [];
}
