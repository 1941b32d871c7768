namespace Eidolon.Core.Video;

/// <summary>What one film's tracker saw of a body: points by name, each with pixels and confidence, at the film's own rate.</summary>
public sealed class FilmTake
{
    private readonly Dictionary<string, int> _points;

    /// <param name="names">Names of the points.</param>
    /// <param name="values">[frame × points × 3 + point × 3 + (u, v, confidence)]; NaN or confidence 0 where a point was not seen. Not copied.</param>
    /// <exception cref="ArgumentException">The values fill no whole number of frames.</exception>
    public FilmTake(double frameRate, IReadOnlyList<string> names, float[] values)
    {
        if (names.Count == 0 || values.Length == 0 || values.Length % (names.Count * 3) != 0)
        {
            throw new ArgumentException("Values do not fill whole frames.", nameof(values));
        }

        (FrameRate, Names, Values) = (frameRate, names, values);
        _points = names.Select((n, i) => (n, i)).ToDictionary(x => x.n, x => x.i, StringComparer.Ordinal);
    }

    /// <summary>Frames a second.</summary>
    public double FrameRate { get; }

    /// <summary>Names of the points.</summary>
    public IReadOnlyList<string> Names { get; }

    /// <summary>Index of a point by its name; −1 when the tracker does not know it.</summary>
    public int IndexOf(string point) => _points.GetValueOrDefault(point, -1);

    /// <summary>Pixels and confidences, [frame × points × 3 + point × 3 + (u, v, confidence)].</summary>
    public float[] Values { get; }

    /// <summary>Frames, the first one 0.</summary>
    public int FrameCount => Values.Length / (Names.Count * 3);

    /// <summary>What reading it had to say.</summary>
    public IReadOnlyList<string> Warnings { get; init; } = [];

    /// <summary>Pixels and confidence of a point at a frame; confidence 0 where it was not seen.</summary>
    public (float U, float V, float Confidence) At(int frame, int point)
    {
        var at = ((frame * Names.Count) + point) * 3;
        var (u, v, c) = (Values[at], Values[at + 1], Values[at + 2]);
        return float.IsFinite(u) && float.IsFinite(v) && c > 0 ? (u, v, c) : default;
    }
}
