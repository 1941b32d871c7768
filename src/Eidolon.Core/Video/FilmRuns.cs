namespace Eidolon.Core.Video;

/// <summary>Stretches of frames in which something is more than it should be.</summary>
internal static class FilmRuns
{
    /// <summary>Runs of values above a limit, both ends inside.</summary>
    /// <param name="shortest">Shorter ones are noise, frames.</param>
    /// <param name="joined">Two with no more than this between them are one, frames.</param>
    public static IEnumerable<(int Start, int End)> Above(double[] values, double limit, double shortest, double joined)
    {
        var (start, end) = (-1, -1);
        for (var f = 0; f <= values.Length; f++)
        {
            if (f < values.Length && values[f] >= limit)
            {
                (start, end) = (start < 0 ? f : start, f);
            }
            else if (start >= 0 && (f == values.Length || f - end > joined))
            {
                if (end - start + 1 >= shortest)
                {
                    yield return (start, end);
                }

                start = -1;
            }
        }
    }
}
