using System.Numerics;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Cleaning;

/// <summary>
/// When a part of a body is planted: one of its points slow for a while, near the lowest it comes to around then, or come down onto something higher.
/// All limits are in seconds and metres; a take of few frames a second is looked at between its frames.
/// </summary>
/// <remarks>
/// Speed over a window as wide as the path's own noise asks for; hysteresis and a least duration as in Ménardais et al., "Motion blending for
/// real-time animation while accounting for the environment", 2004. Edges lie where the point is nearly as still as in the middle of its own contact.
/// </remarks>
internal static class PlantedRanges
{
    /// <summary>Below this speed a point may be planted, above that one it is not, metres a second.</summary>
    private const float Slow = 0.20f,
        Fast = 0.34f;

    /// <summary>The speed at an edge is at most so many times the middle speed of the contact and a little, within bounds, metres a second.</summary>
    private const float EdgeTimes = 2.0f,
        EdgeAbove = 0.03f,
        EdgeLeast = 0.03f,
        EdgeMost = 0.15f;

    public const double ShortestSeconds = 0.09;

    /// <summary>
    /// What moves faster than this between two samples, or by so many times the path's tremble, has not stood there: a short shuffle is no stand,
    /// however slow it is before and after, metres a second.
    /// </summary>
    private const float Shuffle = 1.4f,
        ShuffleOfNoise = 8;

    /// <summary>
    /// A foot that is dragged from one place to another has stood twice: faster than this in between, less than half as fast in both places, which lie so
    /// far apart; metres a second and metres.
    /// </summary>
    private const float Dragged = 0.12f,
        Elsewhere = 0.04f;

    /// <summary>Two stretches so near in time and place are one, seconds and metres.</summary>
    private const double JoinSeconds = 0.05;

    private const float JoinMetres = 0.012f;

    /// <summary>The speed is taken over so much time to either side, seconds: the least, the most, and seconds for each metre of noise.</summary>
    private const double WindowLeast = 0.0125,
        WindowMost = 0.045,
        WindowOfNoise = 18;

    /// <summary>A contact is no higher than this above the lowest the point comes to within some time before and after it, metres and seconds.</summary>
    private const float NearFloor = 0.035f;

    private const double FloorSeconds = 0.6;

    /// <summary>What stands higher came down onto it by so much, and does not sink on when it leaves, metres and seconds.</summary>
    private const float ComesDown = 0.012f;

    private const double ComesDownSeconds = 0.15;

    /// <summary>A foot on its way down pauses in the air no longer than this, seconds.</summary>
    private const double PauseSeconds = 0.3;

    /// <summary>Paths with fewer samples a second are looked at between them.</summary>
    private const double FineRate = 110;

    /// <summary>Planted stretches, in frames, which need not be whole; both ends inside.</summary>
    /// <param name="points">
    /// The way of one point or of several that may each be the one that stands, all fixed to the same bone; metres, Y up, a frame each. Heights
    /// are the first one's.
    /// </param>
    /// <param name="shortest">Shorter ones are none, seconds.</param>
    public static List<(double Start, double End)> Find(IReadOnlyList<Vector3[]> points, double rate, double shortest)
    {
        if (points[0].Length < 3)
        {
            return [];
        }

        var parts = Math.Max(1, (int)Math.Ceiling(FineRate / rate));
        var fineRate = rate * parts;
        var noise = Noise(points[0]);
        var window = Math.Clamp(noise * WindowOfNoise, WindowLeast, WindowMost);
        var reach = Math.Max(2, (int)Math.Round(2 * window * fineRate));
        var fine = Fine(points[0], parts);
        var speed = Speeds(fine, fineRate, reach);
        var steps = Steps(fine);
        foreach (var more in points.Skip(1))
        {
            var path = Fine(more, parts);
            Lesser(speed, Speeds(path, fineRate, reach));
            Lesser(steps, Steps(path));
        }

        var result = new List<(double, double)>();
        var shuffle = MathF.Max((float)(Shuffle / fineRate), (float)(ShuffleOfNoise * noise));
        var runs = Split(Joined(Runs(speed), fine, fineRate), steps, shuffle);
        foreach (var (start, end) in runs.SelectMany(r => Places(fine, speed, r.Start, r.End)))
        {
            var (a, b) = Edges(speed, start, end);
            if ((b - a) / fineRate >= shortest && Stands(fine, (int)Math.Ceiling(a), (int)b, fineRate))
            {
                result.Add((a / parts, b / parts));
            }
        }

        return result;
    }

    /// <summary>Planted stretches that are long enough to be contacts.</summary>
    public static List<(double Start, double End)> Find(IReadOnlyList<Vector3[]> points, double rate) =>
        Find(points, rate, ShortestSeconds);

    /// <summary>The path with so many samples for each of its own, on a cubic through its samples.</summary>
    private static Vector3[] Fine(Vector3[] path, int parts)
    {
        if (parts == 1)
        {
            return path;
        }

        var n = path.Length;
        var fine = new Vector3[((n - 1) * parts) + 1];
        for (var f = 0; f + 1 < n; f++)
        {
            Vector3 a = path[Math.Max(0, f - 1)],
                b = path[f],
                c = path[f + 1],
                d = path[Math.Min(n - 1, f + 2)];
            for (var k = 0; k < parts; k++)
            {
                fine[(f * parts) + k] = CubicSpline.CatmullRom(a, b, c, d, k / (float)parts);
            }
        }

        fine[^1] = path[n - 1];
        return fine;
    }

    /// <summary>The tremble of the path, metres a coordinate: a low quartile of its second differences, which the moves themselves hardly reach.</summary>
    private static double Noise(ReadOnlySpan<Vector3> path)
    {
        var second = new float[path.Length - 2];
        for (var f = 0; f < second.Length; f++)
        {
            second[f] = (path[f + 2] - (2 * path[f + 1]) + path[f]).Length();
        }

        Array.Sort(second);
        // The length of three Gaussian coordinates of spread √6 σ lies below 1.10 √6 σ in a quarter of all cases.
        return second[second.Length / 4] / (1.10 * Math.Sqrt(6));
    }

    /// <summary>
    /// How fast the point is just before or just after a frame, whichever is less: it is still from its first frame on the floor to its last.
    /// </summary>
    private static float[] Speeds(ReadOnlySpan<Vector3> path, double rate, int reach)
    {
        var n = path.Length;
        var ahead = new float[n];
        for (var f = 0; f + 1 < n; f++)
        {
            var b = Math.Min(n - 1, f + reach);
            ahead[f] = (float)((path[b] - path[f]).Length() * rate / (b - f));
        }

        ahead[n - 1] = ahead[Math.Max(0, n - 1 - reach)];
        var speed = new float[n];
        for (var f = 0; f < n; f++)
        {
            speed[f] = f >= reach ? MathF.Min(ahead[f], ahead[f - reach]) : ahead[f];
        }

        return speed;
    }

    private static void Lesser(float[] values, float[] others)
    {
        for (var f = 0; f < values.Length; f++)
        {
            values[f] = MathF.Min(values[f], others[f]);
        }
    }

    /// <summary>How far it is from each sample to the next, metres.</summary>
    private static float[] Steps(Vector3[] path)
    {
        var steps = new float[path.Length];
        for (var f = 0; f + 1 < path.Length; f++)
        {
            steps[f] = Vector3.Distance(path[f], path[f + 1]);
        }

        return steps;
    }

    /// <summary>The runs, cut where a step is wider than a limit.</summary>
    private static IEnumerable<(int Start, int End)> Split(List<(int Start, int End)> runs, float[] steps, float limit)
    {
        foreach (var (start, end) in runs)
        {
            var from = start;
            for (var f = start; f < end; f++)
            {
                if (steps[f] > limit)
                {
                    yield return (from, f);
                    from = f + 1;
                }
            }

            yield return (from, end);
        }
    }

    /// <summary>A run, cut where the point is fastest between two places, each the stillest on its side.</summary>
    private static IEnumerable<(int Start, int End)> Places(Vector3[] path, float[] speed, int start, int end)
    {
        // Faster at its beginning and end it is still coming or already going.
        var (from, to) = (start, end);
        while (from < to && speed[from] > Dragged)
        {
            from++;
        }

        while (to > from && speed[to] > Dragged)
        {
            to--;
        }

        var cut = from;
        for (var f = from; f <= to; f++)
        {
            cut = speed[f] > speed[cut] ? f : cut;
        }

        if (speed[cut] <= Dragged)
        {
            return [(start, end)];
        }

        var (before, after) = (Stillest(speed, start, cut), Stillest(speed, cut, end));
        var twice = MathF.Max(speed[before], speed[after]) < Dragged / 2 && Vector3.Distance(path[before], path[after]) > Elsewhere;
        return twice ? Places(path, speed, start, cut - 1).Concat(Places(path, speed, cut, end)) : [(start, end)];
    }

    private static int Stillest(float[] speed, int start, int end)
    {
        var stillest = start;
        for (var f = start; f <= end; f++)
        {
            stillest = speed[f] < speed[stillest] ? f : stillest;
        }

        return stillest;
    }

    private static List<(int Start, int End)> Runs(float[] speed)
    {
        var runs = new List<(int, int)>();
        var start = -1;
        for (var f = 0; f <= speed.Length; f++)
        {
            if (start < 0 && f < speed.Length && speed[f] < Slow)
            {
                start = f;
            }
            else if (start >= 0 && (f == speed.Length || speed[f] > Fast))
            {
                runs.Add((start, f - 1));
                start = -1;
            }
        }

        return runs;
    }

    private static List<(int Start, int End)> Joined(List<(int Start, int End)> runs, ReadOnlySpan<Vector3> path, double rate)
    {
        var joined = new List<(int Start, int End)>();
        foreach (var run in runs)
        {
            if (
                joined.Count > 0
                && (run.Start - joined[^1].End) / rate < JoinSeconds
                && (path[run.Start] - path[joined[^1].End]).Length() < JoinMetres
            )
            {
                joined[^1] = (joined[^1].Start, run.End);
            }
            else
            {
                joined.Add(run);
            }
        }

        return joined;
    }

    /// <summary>Where the point has become about as still as it is in the middle of the contact, and where it stops to be; between samples.</summary>
    private static (double Start, double End) Edges(float[] speed, int start, int end)
    {
        var middle = speed[start..(end + 1)];
        Array.Sort(middle);
        var limit = Math.Clamp(EdgeAbove + (EdgeTimes * middle[middle.Length / 2]), EdgeLeast, EdgeMost);
        var (a, b) = (start, end);
        while (a < b && speed[a] > limit)
        {
            a++;
        }

        while (b > a && speed[b] > limit)
        {
            b--;
        }

        double Crossing(int inside, int outside) =>
            outside < 0 || outside >= speed.Length || speed[outside] <= limit
                ? inside
                : inside + ((outside - inside) * Math.Clamp((limit - speed[inside]) / (speed[outside] - speed[inside]), 0, 1));
        return (Crossing(a, a - 1), Crossing(b, b + 1));
    }

    /// <summary>A still point stands on the floor around it, or has come down onto something and does not sink from it at once.</summary>
    private static bool Stands(ReadOnlySpan<Vector3> path, int start, int end, double rate)
    {
        var heights = new float[Math.Max(1, end - start + 1)];
        for (var f = 0; f < heights.Length; f++)
        {
            heights[f] = path[Math.Min(path.Length - 1, start + f)].Y;
        }

        Array.Sort(heights);
        var height = heights[heights.Length / 2];
        if (height - Lowest(path, start, end, (int)(FloorSeconds * rate)) < NearFloor)
        {
            return true;
        }

        var reach = (int)(ComesDownSeconds * rate);
        var before = start < 2 ? float.PositiveInfinity : path[Math.Max(0, start - reach)].Y;
        return before > height + ComesDown
            && ((end - start) / rate > PauseSeconds || Lowest(path, end, end, reach) > height - (2 * ComesDown));
    }

    private static float Lowest(ReadOnlySpan<Vector3> path, int start, int end, int reach)
    {
        var low = float.PositiveInfinity;
        for (var f = Math.Max(0, start - reach); f <= Math.Min(path.Length - 1, end + reach); f++)
        {
            low = MathF.Min(low, path[f].Y);
        }

        return low;
    }
}
