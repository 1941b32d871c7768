namespace Eidolon.Core.Hands;

/// <summary>What a pair of gloves measured: the turn in the room of a sensor on each hand and on the middle bone of each finger.</summary>
public sealed class GloveTake
{
    /// <summary>Values of one sensor: a unit quaternion x, y, z, w.</summary>
    public const int ValuesPerSensor = 4;

    /// <summary>Sensors in their order: HandL, ThumbL … LittleL, then the right hand's.</summary>
    public static IReadOnlyList<string> Sensors { get; } =
    [.. "LR".SelectMany(side => new[] { $"Hand{side}" }.Concat(HandShape.Names.Select(n => $"{n}{side}")))];

    /// <summary>Values of one frame.</summary>
    public static int Stride => Sensors.Count * ValuesPerSensor;

    /// <param name="samples">[frame × <see cref="Stride"/> + sensor × 4 + value]; NaN where a sample was lost. Not copied.</param>
    /// <exception cref="ArgumentException">The samples are no whole number of frames, or the rate is not above zero.</exception>
    public GloveTake(double frameRate, float[] samples)
    {
        if (!(frameRate > 0) || !double.IsFinite(frameRate) || samples.Length == 0 || samples.Length % Stride != 0)
        {
            throw new ArgumentException("A glove's recording needs a rate above zero and whole frames.", nameof(samples));
        }

        (FrameRate, Samples) = (frameRate, samples);
    }

    /// <summary>Frames a second.</summary>
    public double FrameRate { get; }

    /// <summary>Frames, the first one 0.</summary>
    public int FrameCount => Samples.Length / Stride;

    /// <summary>All values, [frame × <see cref="Stride"/> + sensor × 4 + value].</summary>
    public float[] Samples { get; }

    /// <summary>What reading it had to say.</summary>
    public IReadOnlyList<string> Warnings { get; init; } = [];

    /// <summary>A sensor's turn; null where its sample was lost or is no turn.</summary>
    public System.Numerics.Quaternion? At(int frame, int sensor)
    {
        var v = Samples.AsSpan((frame * Stride) + (sensor * ValuesPerSensor), ValuesPerSensor);
        var q = new System.Numerics.Quaternion(v[0], v[1], v[2], v[3]);
        var length = q.Length();
        return float.IsFinite(length) && length is > 0.5f and < 1.5f ? System.Numerics.Quaternion.Normalize(q) : null;
    }
}
