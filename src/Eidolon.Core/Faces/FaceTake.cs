namespace Eidolon.Core.Faces;

/// <summary>What a face tracker saw: weights by name, at its own rate, from its own beginning.</summary>
public sealed class FaceTake
{
    /// <param name="values">[frame × (names + 1)]: the weights, 0 to 1, then how sure the tracker is, 0 to 1. NaN where it saw nothing. Not copied.</param>
    /// <exception cref="ArgumentException">The values are no whole number of frames, or the rate is not above zero.</exception>
    public FaceTake(double frameRate, IReadOnlyList<string> names, float[] values)
    {
        if (
            !(frameRate > 0)
            || !double.IsFinite(frameRate)
            || names.Count == 0
            || values.Length == 0
            || values.Length % (names.Count + 1) != 0
        )
        {
            throw new ArgumentException("A face's recording needs a rate above zero and whole frames.", nameof(values));
        }

        (FrameRate, Names, Values) = (frameRate, names, values);
    }

    /// <summary>Frames a second.</summary>
    public double FrameRate { get; }

    /// <summary>Names of the weights, e.g. of <see cref="FaceUnits"/>.</summary>
    public IReadOnlyList<string> Names { get; }

    /// <summary>Weights and sureness, [frame × (names + 1) + name].</summary>
    public float[] Values { get; }

    /// <summary>Frames, the first one 0.</summary>
    public int FrameCount => Values.Length / (Names.Count + 1);

    /// <summary>What reading it had to say.</summary>
    public IReadOnlyList<string> Warnings { get; init; } = [];

    /// <summary>A weight at a frame; NaN where the tracker saw nothing.</summary>
    public float At(int frame, int name) => Values[(frame * (Names.Count + 1)) + name];

    /// <summary>How sure the tracker is at a frame; 0 where it saw nothing.</summary>
    public float Sure(int frame) => Values[(frame * (Names.Count + 1)) + Names.Count] is var s && float.IsFinite(s) ? s : 0;
}
