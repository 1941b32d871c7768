namespace Eidolon.Core.Assembly;

/// <summary>
/// Keeps the way of a point still where it stands, and leaves it as it is elsewhere: the least change, spread over the frames around, that takes
/// the steps out of the stands. Where a stand begins and ends at places that are given, it goes from one to the other evenly.
/// </summary>
/// <remarks>
/// One axis at a time, least squares over the frames: a step within a stand weighs heaviest, then a change that jumps, then any change at
/// all. The equations have three diagonals and are solved by elimination (Thomas).
/// </remarks>
internal static class SteadyWay
{
    /// <summary>What a step within a stand weighs, and a change of place there: next to nothing.</summary>
    private const double Stand = 1e4,
        Change = 1e-3;

    /// <summary>Outside stands a change fades over so long, seconds.</summary>
    private const double FadeSeconds = 0.04;

    /// <param name="way">One coordinate, frame by frame; changed in place.</param>
    /// <param name="stands">Whether the point stands at a frame.</param>
    /// <param name="before">The coordinate at the frame before, where the point stands as well; null where it may be anywhere.</param>
    /// <param name="after">At the frame after.</param>
    /// <param name="rest">How long the point takes to come to rest, and to leave, frames.</param>
    /// <param name="rate">Frames a second.</param>
    public static void Keep(Span<float> way, ReadOnlySpan<bool> stands, float? before, float? after, double rest, double rate)
    {
        var n = way.Length;
        var fade = Math.Pow(FadeSeconds * rate, 2);
        // Of every step, from the frame before the first to the frame after the last: its weight, and what it is now.
        var (weight, step) = (new double[n + 1], new double[n + 1]);
        var inside = new bool[n + 1];
        for (var k = 0; k <= n; k++)
        {
            var (from, to) = (k == 0 ? before : way[k - 1], k == n ? after : way[k]);
            var still = (k == 0 ? before is not null : stands[k - 1]) && (k == n ? after is not null : stands[k]);
            (inside[k], step[k]) = (still, still ? to!.Value - from!.Value : 0);
        }

        Weigh(inside, weight, fade, rest);

        var (upper, right) = (new double[n], new double[n]);
        for (var k = 0; k < n; k++)
        {
            var diagonal = (stands[k] ? Change : 1) + weight[k] + weight[k + 1];
            right[k] = (weight[k + 1] * step[k + 1]) - (weight[k] * step[k]);
            if (k > 0)
            {
                diagonal -= weight[k] * upper[k - 1];
                right[k] += weight[k] * right[k - 1];
            }

            upper[k] = weight[k + 1] / diagonal;
            right[k] /= diagonal;
        }

        for (var (k, next) = (n - 1, 0.0); k >= 0; k--)
        {
            next = right[k] + (k == n - 1 ? 0 : upper[k] * next);
            way[k] += (float)next;
        }
    }

    /// <summary>A stand weighs less towards its beginning and its end: a foot that lands comes to rest, it does not stop dead.</summary>
    private static void Weigh(bool[] inside, double[] weight, double fade, double rest)
    {
        for (var (k, from) = (0, 0); k < inside.Length; k++)
        {
            from = k > 0 && inside[k - 1] ? from : k;
            // A stand that goes on beyond the frames has no end there.
            weight[k] = inside[k] ? Eased(from == 0 ? rest + 1 : k - from + 1) : fade;
        }

        for (var (k, to) = (inside.Length - 1, inside.Length - 1); k >= 0; k--)
        {
            to = k + 1 < inside.Length && inside[k + 1] ? to : k;
            weight[k] = inside[k] ? Math.Min(weight[k], Eased(to == inside.Length - 1 ? rest + 1 : to - k + 1)) : fade;
        }

        double Eased(double steps) => fade * Math.Pow(Stand / fade, Math.Min(1, steps / (rest + 1)));
    }
}
