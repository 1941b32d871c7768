using Eidolon.Core.Cleaning;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Video;

/// <summary>Feet that stand, by one film's picture alone: their points stay where they are in it, whatever is known of their depth.</summary>
internal static class StillPoints
{
    /// <summary>Slower than this in the picture a point stands, statures of the figure's size a second; and for so long, seconds.</summary>
    private const double Still = 0.16,
        LeastSeconds = 0.13;

    /// <summary>The speed is that of a line over so much time to either side, seconds.</summary>
    private const double Window = 0.07;

    /// <summary>A point is well seen from this weight on, 1/pixel²; a film is judged that lasts so long, seconds;
    /// some foot stands for this share of it.</summary>
    private const double SureWeight = 0.01,
        LeastFilmSeconds = 1.5,
        LeastStill = 0.1;

    private static readonly (BodyRole Role, string[] Points)[] Joints =
    [
        (BodyRole.FootL, ["AnkleL", "HeelL"]),
        (BodyRole.ToesL, ["ToeL"]),
        (BodyRole.FootR, ["AnkleR", "HeelR"]),
        (BodyRole.ToesR, ["ToeR"]),
    ];

    /// <summary>Contacts of ankles and toes in frames of the first film.</summary>
    public static List<Contact> Find(FilmBody body, FilmClock clock)
    {
        var sights = Enumerable.Range(0, clock.FrameCount).Select(f => clock.At(f)).ToArray();
        var size = Size(body, sights);
        var result = new List<Contact>();
        var names = body.Points.Select(p => p.Name).ToList();
        foreach (var (role, points) in Joints.Where(j => body.Standing.Contains(j.Role)))
        {
            var speeds = Speeds(sights, [.. points.Select(p => names.IndexOf(p))], clock.Rate);
            var start = -1;
            for (var f = 0; f <= speeds.Length; f++)
            {
                if (f < speeds.Length && speeds[f] < Still * size)
                {
                    start = start < 0 ? f : start;
                }
                else if (start >= 0)
                {
                    if (f - start >= LeastSeconds * clock.Rate)
                    {
                        result.Add(new Contact(role, start, f - 1));
                    }

                    start = -1;
                }
            }
        }

        return result;
    }

    /// <summary>
    /// In a film whose camera stands some foot stands still now and then. Only told where feet are well seen in most of the frames, and somebody
    /// moves at all.
    /// </summary>
    public static bool CameraMoves(FilmBody body, FilmClock clock)
    {
        var names = body.Points.Select(p => p.Name).ToList();
        var feet = new[] { "AnkleL", "AnkleR", "ToeL", "ToeR" }.Select(n => names.IndexOf(n)).ToHashSet();
        var seen = Enumerable
            .Range(0, clock.FrameCount)
            .Count(f => clock.At(f).Count(s => feet.Contains(s.Point) && s.Weight > SureWeight) >= 2);
        if (clock.FrameCount < LeastFilmSeconds * clock.Rate || seen < clock.FrameCount / 2)
        {
            return false;
        }

        var still = new bool[clock.FrameCount];
        foreach (var c in Find(body, clock))
        {
            still.AsSpan(c.Start, c.Length).Fill(true);
        }

        return still.Count(s => s) < LeastStill * seen;
    }

    /// <summary>How tall the figure would be in the picture, pixels: from the spread of trunk and legs, the tallest frames'.</summary>
    private static double Size(FilmBody body, List<FilmSight>[] sights)
    {
        var trunk = new[] { "Neck", "ShoulderL", "ShoulderR", "Pelvis", "HipL", "HipR" };
        var heights = sights
            .Select(s => s.Where(x => trunk.Contains(body.Points[x.Point].Name)).ToArray())
            .Where(s => s.Length > 3)
            .Select(s => s.Max(x => x.V) - s.Min(x => x.V))
            .Order()
            .ToArray();
        // From hips to neck is 0.3 of the stature.
        return heights.Length == 0 ? 400 : heights[heights.Length * 3 / 4] / 0.3;
    }

    /// <summary>Speed of the mean of some points by a weighted line through the frames around, pixels a second.</summary>
    private static double[] Speeds(List<FilmSight>[] sights, int[] points, double rate)
    {
        var half = Math.Max(1, (int)Math.Round(Window * rate));
        var speeds = new double[sights.Length];
        for (var f = 0; f < speeds.Length; f++)
        {
            double fastest = 0;
            foreach (var p in points)
            {
                double w = 0,
                    t = 0,
                    tt = 0,
                    u = 0,
                    v = 0,
                    tu = 0,
                    tv = 0;
                for (var g = Math.Max(0, f - half); g <= Math.Min(speeds.Length - 1, f + half); g++)
                {
                    foreach (var s in sights[g].Where(s => s.Point == p))
                    {
                        var at = (g - f) / rate;
                        (w, t, tt) = (w + s.Weight, t + (s.Weight * at), tt + (s.Weight * at * at));
                        (u, v) = (u + (s.Weight * s.U), v + (s.Weight * s.V));
                        (tu, tv) = (tu + (s.Weight * at * s.U), tv + (s.Weight * at * s.V));
                    }
                }

                var det = (w * tt) - (t * t);
                var speed =
                    det > 1e-12
                        ? Math.Sqrt(Square(((w * tu) - (t * u)) / det) + Square(((w * tv) - (t * v)) / det))
                        : double.PositiveInfinity;
                fastest = Math.Max(fastest, speed);
            }

            speeds[f] = fastest;
        }

        return speeds;
    }

    private static double Square(double x) => x * x;
}
