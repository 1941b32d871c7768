using Eidolon.Core.Markers;

namespace Eidolon.Core.Quality;

/// <summary>A marker whose links to its neighbours change their length for good: it slid on the suit, or it has the wrong name.</summary>
public static class LinkDriftFinder
{
    /// <summary>Skin and cloth move less than this for long, metres.</summary>
    private const float Limit = 0.02f;

    private const double WindowSeconds = 0.25;

    /// <summary>Windows that must be off one after the other.</summary>
    private const int Windows = 4;

    /// <param name="Off">Metres away from the usual length.</param>
    public readonly record struct Drift(int Marker, int Neighbour, int Start, int End, float Off);

    /// <summary>Stretches in which two linked markers are not as far apart as usual.</summary>
    public static List<Drift> Find(MarkerTake take, MarkerSet set)
    {
        var links = TakeLinks.Of(take, set);
        var window = Math.Max(4, (int)Math.Round(take.FrameRate * WindowSeconds));
        var count = take.FrameCount / window;
        if (count < 2 * Windows || links.Count == 0)
        {
            return [];
        }

        // Middle lengths by link and window, and by link over the take.
        var off = new float[links.Count][];
        Parallel.For(0, links.Count, MarkerFindings.Quietly, l =>
        {
            var lengths = new float[count];
            var scratch = new List<float>(window);
            for (var w = 0; w < count; w++)
            {
                scratch.Clear();
                for (var f = w * window; f < (w + 1) * window; f++)
                {
                    var d = (take[f, links[l].A] - take[f, links[l].B]).Length();
                    if (!float.IsNaN(d))
                    {
                        scratch.Add(d);
                    }
                }

                scratch.Sort();
                lengths[w] = scratch.Count < window / 2 ? float.NaN : scratch[scratch.Count / 2];
            }

            var sorted = lengths.Where(v => !float.IsNaN(v)).Order().ToArray();
            var usual = sorted.Length == 0 ? float.NaN : sorted[sorted.Length / 2];
            off[l] = Array.ConvertAll(lengths, v => MathF.Abs(v - usual));
        });
        return [.. Enumerable.Range(0, take.MarkerCount).SelectMany(m => Of(m, links, off, window))];
    }

    /// <summary>A marker is off when most of its links are; one link alone says nothing about which end it is.</summary>
    private static IEnumerable<Drift> Of(int marker, List<(int A, int B)> links, float[][] off, int window)
    {
        var own = Enumerable.Range(0, links.Count).Where(l => links[l].A == marker || links[l].B == marker).ToArray();
        if (own.Length < 2)
        {
            yield break;
        }

        var count = off[0].Length;
        bool Off(int w) => own.Count(l => off[l][w] > Limit) is var n && n >= 2 && n * 3 > own.Count(l => !float.IsNaN(off[l][w])) * 2;
        for (var w = 0; w < count; w++)
        {
            var end = w;
            while (end < count && Off(end))
            {
                end++;
            }

            if (end - w >= Windows)
            {
                var worst = own.MaxBy(l => Enumerable.Range(w, end - w).Max(k => float.IsNaN(off[l][k]) ? 0 : off[l][k]));
                var most = Enumerable.Range(w, end - w).Max(k => float.IsNaN(off[worst][k]) ? 0 : off[worst][k]);
                yield return new Drift(
                    marker,
                    links[worst].A == marker ? links[worst].B : links[worst].A,
                    w * window,
                    (end * window) - 1,
                    most
                );
            }

            w = Math.Max(w, end);
        }
    }
}
