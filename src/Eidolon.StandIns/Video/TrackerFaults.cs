namespace Eidolon.StandIns.Video;

/// <summary>What trackers get wrong: points missed, and left legs taken for right ones for a while.</summary>
public static class TrackerFaults
{
    private static readonly string[] Legs = ["Hip", "Knee", "Ankle", "Heel", "Toe"];

    /// <summary>Values as <see cref="WitnessSimulator.See"/> gives them, with some points missed and the legs exchanged now and then.</summary>
    /// <param name="missed">Share of points that are not seen.</param>
    /// <param name="exchanges">How many times legs are exchanged, each for a third of a second to a second.</param>
    public static float[] Add(float[] values, double rate, float missed, int exchanges, int seed)
    {
        var random = new Random(seed);
        var result = (float[])values.Clone();
        var frames = result.Length / WitnessPoints.Values;
        for (var e = 0; e < exchanges; e++)
        {
            var length = (int)(rate * (0.33 + (0.67 * random.NextSingle())));
            var start = random.Next(Math.Max(1, frames - length));
            for (var f = start; f < Math.Min(frames, start + length); f++)
            {
                Exchange(result.AsSpan(f * WitnessPoints.Values));
            }
        }

        for (var f = 0; f < frames; f++)
        {
            for (var p = 0; p < WitnessPoints.Count; p++)
            {
                if (random.NextSingle() < missed)
                {
                    result.AsSpan((f * WitnessPoints.Values) + (p * 3), 3).Clear();
                }
            }
        }

        return result;
    }

    /// <summary>From one frame to another some points are taken for something else that hardly moves, and the tracker is sure of it.</summary>
    /// <param name="points">Names of the points.</param>
    /// <param name="u">Where it is in the picture, pixels.</param>
    public static void Mistake(float[] values, IReadOnlyList<string> points, int start, int end, float u, float v, int seed)
    {
        const float sureness = 0.9f;
        var random = new Random(seed);
        foreach (var (point, i) in points.Select((p, i) => (p, i)))
        {
            var at = WitnessPoints.Names.ToList().IndexOf(point) * 3;
            for (var f = start; f <= end; f++)
            {
                var k = (f * WitnessPoints.Values) + at;
                (values[k], values[k + 1], values[k + 2]) = (
                    u + (i * 14) + (6 * (random.NextSingle() - 0.5f)),
                    v + (i * 5) + (6 * (random.NextSingle() - 0.5f)),
                    sureness
                );
            }
        }
    }

    private static void Exchange(Span<float> row)
    {
        foreach (var part in Legs)
        {
            int l = WitnessPoints.Names.ToList().IndexOf(part + "L") * 3,
                r = WitnessPoints.Names.ToList().IndexOf(part + "R") * 3;
            for (var k = 0; k < 3; k++)
            {
                (row[l + k], row[r + k]) = (row[r + k], row[l + k]);
            }
        }
    }
}
