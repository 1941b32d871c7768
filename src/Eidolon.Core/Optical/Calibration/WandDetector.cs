namespace Eidolon.Core.Optical.Calibration;

/// <summary>Finds the wand's three dots in each picture: on one line, the middle one nearer to one end.</summary>
internal static class WandDetector
{
    private const int MostCentroids = 12;

    /// <summary>All pictures in which exactly one triple looks like the wand.</summary>
    public static List<WandSighting> Find(CentroidTake take, Wand wand)
    {
        var list = new List<WandSighting>();
        for (var f = 0; f < take.FrameCount; f++)
        {
            for (var c = 0; c < take.CameraCount; c++)
            {
                if (In(f, c, take.UAt(f, c), take.VAt(f, c), wand.ToMiddle / wand.Length) is { } sighting)
                {
                    list.Add(sighting);
                }
            }
        }

        return list;
    }

    /// <summary>The wand in one picture; null when there is none or more than one triple might be it.</summary>
    public static WandSighting? In(int frame, int camera, ReadOnlySpan<float> u, ReadOnlySpan<float> v, double share)
    {
        if (u.Length is < 3 or > MostCentroids)
        {
            return null;
        }

        WandSighting? only = null;
        for (var a = 0; a < u.Length; a++)
        {
            for (var c = 0; c < u.Length; c++)
            {
                if (a == c)
                {
                    continue;
                }

                double dx = u[c] - u[a],
                    dy = v[c] - v[a];
                var length = Math.Sqrt((dx * dx) + (dy * dy));
                if (length < 12)
                {
                    continue;
                }

                for (var b = 0; b < u.Length; b++)
                {
                    if (b == a || b == c)
                    {
                        continue;
                    }

                    double ex = u[b] - u[a],
                        ey = v[b] - v[a];
                    var along = ((ex * dx) + (ey * dy)) / (length * length);
                    var beside = Math.Abs((ex * dy) - (ey * dx)) / length;
                    // Perspective moves the middle by a tenth at most at these distances; lenses bend the line a little.
                    if (Math.Abs(along - share) > 0.08 || beside > 1.2 + (0.012 * length))
                    {
                        continue;
                    }

                    if (only is not null)
                    {
                        return null;
                    }

                    only = new WandSighting(frame, camera, u[a], v[a], u[b], v[b], u[c], v[c]);
                }
            }
        }

        return only;
    }
}
