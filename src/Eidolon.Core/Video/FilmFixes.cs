using System.Globalization;

namespace Eidolon.Core.Video;

/// <summary>Lays what a person put right over what the trackers saw; between two corrected frames of a point its way is made of both.</summary>
public static class FilmFixes
{
    /// <summary>Corrections farther apart than this say nothing of what is between them, seconds.</summary>
    private const double MostBetween = 0.5;

    /// <summary>A corrected point counts fully; one between two of them like a tracker that is fairly sure.</summary>
    private const float Surely = 1,
        Fairly = 0.75f;

    /// <summary>Points that hang on another: who moves the wrist moves the hand.</summary>
    private static readonly Dictionary<string, string[]> Hanging = new(StringComparer.Ordinal)
    {
        ["Wrist"] = ["Knuckle{0}", "Index{0}1", "Little{0}1"],
        ["Ankle"] = ["Heel{0}", "Toe{0}"],
    };

    /// <summary>The films with all corrections; films that have none are given back as they are.</summary>
    /// <exception cref="RefusedException">A correction is of a film, frame or point that is not there.</exception>
    public static IReadOnlyList<FilmTake> Apply(IReadOnlyList<FilmTake> films, IReadOnlyList<FilmFix> fixes)
    {
        foreach (var x in fixes)
        {
            if (x.Film < 0 || x.Film >= films.Count)
            {
                throw new RefusedException($"there is no film {x.Film + 1}");
            }

            if (x.Frame < 0 || x.Frame >= films[x.Film].FrameCount)
            {
                throw new RefusedException($"film {x.Film + 1} has {films[x.Film].FrameCount} frames, there is no frame {x.Frame}");
            }

            if (films[x.Film].IndexOf(x.Point) < 0)
            {
                throw new RefusedException($"film {x.Film + 1} has no point '{x.Point}'");
            }
        }

        return [.. films.Select((film, k) => Of(film, [.. fixes.Where(x => x.Film == k)]))];
    }

    private static FilmTake Of(FilmTake film, FilmFix[] fixes)
    {
        if (fixes.Length == 0)
        {
            return film;
        }

        var values = (float[])film.Values.Clone();
        // What hangs goes first: what was said of it itself comes over it.
        foreach (var point in fixes.GroupBy(x => film.IndexOf(x.Point)).OrderBy(g => Hanging.ContainsKey(film.Names[g.Key][..^1]) ? 0 : 1))
        {
            // What was said last of a frame counts.
            FilmFix[] own = [.. point.GroupBy(x => x.Frame).Select(g => g.Last()).OrderBy(x => x.Frame)];
            for (var i = 0; i < own.Length; i++)
            {
                Put(film, values, own[i].Frame, point.Key, own[i].U, own[i].V, Surely);
                if (i + 1 < own.Length && own[i + 1].Frame - own[i].Frame <= MostBetween * film.FrameRate)
                {
                    Between(film, values, point.Key, own, i);
                }
            }
        }

        return new FilmTake(film.FrameRate, film.Names, values) { Warnings = film.Warnings };
    }

    /// <summary>A cubic through the corrections on both sides (Catmull &amp; Rom 1974, uneven steps).</summary>
    private static void Between(FilmTake film, float[] values, int point, FilmFix[] own, int i)
    {
        var (a, b) = (own[i], own[i + 1]);
        var span = b.Frame - a.Frame;
        var (before, after) = (Slope(own, i), Slope(own, i + 1));
        for (var f = a.Frame + 1; f < b.Frame; f++)
        {
            var t = (f - a.Frame) / (float)span;
            var (t2, t3) = (t * t, t * t * t);
            var (h1, h2, h3, h4) = ((2 * t3) - (3 * t2) + 1, (3 * t2) - (2 * t3), (t3 - (2 * t2) + t) * span, (t3 - t2) * span);
            Put(
                film,
                values,
                f,
                point,
                (h1 * a.U) + (h2 * b.U) + (h3 * before.U) + (h4 * after.U),
                (h1 * a.V) + (h2 * b.V) + (h3 * before.V) + (h4 * after.V),
                Fairly
            );
        }
    }

    private static (float U, float V) Slope(FilmFix[] own, int i)
    {
        var (a, b) = (own[Math.Max(0, i - 1)], own[Math.Min(own.Length - 1, i + 1)]);
        float frames = Math.Max(1, b.Frame - a.Frame);
        return ((b.U - a.U) / frames, (b.V - a.V) / frames);
    }

    private static void Put(FilmTake film, float[] values, int frame, int point, float u, float v, float confidence)
    {
        var name = film.Names[point];
        if (Hanging.TryGetValue(name[..^1], out var hanging))
        {
            var (oldU, oldV, seen) = film.At(frame, point);
            foreach (
                var other in hanging.Select(h => film.IndexOf(string.Format(CultureInfo.InvariantCulture, h, name[^1]))).Where(i => i >= 0)
            )
            {
                var (ou, ov, oc) = film.At(frame, other);
                // Moved along with it; nobody knows where it is when the point it hangs on was not seen before.
                Set(film, values, frame, other, ou + u - oldU, ov + v - oldV, seen > 0 && oc > 0 ? Math.Min(oc, Fairly) : 0);
            }
        }

        Set(film, values, frame, point, u, v, confidence);
    }

    private static void Set(FilmTake film, float[] values, int frame, int point, float u, float v, float confidence)
    {
        var to = ((frame * film.Names.Count) + point) * 3;
        (values[to], values[to + 1], values[to + 2]) = (u, v, confidence);
    }
}
