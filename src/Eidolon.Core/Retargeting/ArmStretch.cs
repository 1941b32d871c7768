namespace Eidolon.Core.Retargeting;

/// <summary>
/// An arm that follows something out of its reach would snap straight: just before it is straight, any step of the hand is a leap of the elbow. Around
/// such moments it bends and straightens no faster than the performer's bones turn, and stays a little short instead.
/// </summary>
internal static class ArmStretch
{
    /// <summary>Elbows bend no further than this, radians.</summary>
    private const double MostBent = 2.75;

    /// <summary>Out of reach, or nearly, from this share of the arm's length on.</summary>
    private const float Reachable = 0.985f;

    /// <summary>The least of a performer's fastest turn an elbow may use, as a share, and radians a frame.</summary>
    private const float Share = 1.2f,
        Least = 0.01f;

    /// <summary>How far around such a moment that counts, and how long it takes to fade, frames a radian a frame: at any rate so long that an arm can straighten.</summary>
    private const float Around = 1.4f,
        Fade = 0.5f;

    /// <summary>How far an arm may reach at each frame, metres.</summary>
    /// <param name="wanted">How far from the shoulder its hand should be.</param>
    /// <param name="first">Length of the upper arm.</param>
    /// <param name="second">Length of the forearm.</param>
    /// <param name="fastest">The performer's fastest turn, radians a frame.</param>
    public static float[] Reaches(float[] wanted, float first, float second, float fastest)
    {
        var n = wanted.Length;
        var step = MathF.Max(Least, fastest * Share);
        var bends = new float[n];
        var (reach, fade) = ((int)(Around / step), Math.Max(1, (int)(Fade / step)));
        var weights = new float[n];
        for (var f = 0; f < n; f++)
        {
            bends[f] = Bend(wanted[f], first, second);
            weights[f] = wanted[f] > (first + second) * Reachable ? 1 + (reach / (float)fade) : 0;
        }

        // The least row that nowhere bends less than needed and nowhere changes faster than allowed.
        var slow = Envelope(bends, step);
        var near = Envelope(weights, 1f / fade);
        var reaches = new float[n];
        for (var f = 0; f < n; f++)
        {
            var share = Math.Clamp(near[f], 0, 1);
            reaches[f] = Distance(bends[f] + ((slow[f] - bends[f]) * share), first, second);
        }

        return reaches;
    }

    private static float[] Envelope(float[] values, float step)
    {
        var result = values.AsSpan().ToArray();
        for (var f = 1; f < result.Length; f++)
        {
            result[f] = MathF.Max(result[f], result[f - 1] - step);
        }

        for (var f = result.Length - 2; f >= 0; f--)
        {
            result[f] = MathF.Max(result[f], result[f + 1] - step);
        }

        return result;
    }

    /// <summary>The bend that puts the end so far away, radians from straight.</summary>
    private static float Bend(double distance, double first, double second)
    {
        var cosine = ((distance * distance) - (first * first) - (second * second)) / (2 * first * second);
        return (float)Math.Min(MostBent, Math.Acos(Math.Clamp(cosine, -1, 1)));
    }

    private static float Distance(double bend, double first, double second) =>
        (float)Math.Sqrt((first * first) + (second * second) + (2 * first * second * Math.Cos(bend)));
}
