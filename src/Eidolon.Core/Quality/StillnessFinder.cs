using Eidolon.Core.Markers;

namespace Eidolon.Core.Quality;

/// <summary>
/// A marker that stands still to the hundredth of a millimetre while the others move: a sample that was held, or a marker that fell to the
/// floor.
/// </summary>
public static class StillnessFinder
{
    /// <summary>Real markers always tremble more than this from frame to frame, metres.</summary>
    private const float Frozen = 2e-5f;

    private const double ShortestSeconds = 0.1;

    /// <summary>A marker that does not move while its body does.</summary>
    /// <param name="Marker">Column.</param>
    /// <param name="Start">First frame.</param>
    /// <param name="End">Last frame.</param>
    public readonly record struct Still(int Marker, int Start, int End);

    /// <summary>Stretches in which a marker stands still in the air.</summary>
    public static List<Still> Find(MarkerTake take)
    {
        var shortest = Math.Max(6, (int)Math.Round(take.FrameRate * ShortestSeconds));
        var since = new int[take.MarkerCount];
        var found = new List<Still>();
        void Close(int m, int f)
        {
            if (f - since[m] >= shortest && take.MarkerCount > 1 && OthersMove(take, m, since[m], f - 1))
            {
                found.Add(new Still(m, since[m], f - 1));
            }
        }

        for (var f = 1; f < take.FrameCount; f++)
        {
            var before = take.At(f - 1);
            var now = take.At(f);
            for (var m = 0; m < now.Length; m++)
            {
                if (!((now[m] - before[m]).LengthSquared() < Frozen * Frozen))
                {
                    Close(m, f);
                    since[m] = f;
                }
            }
        }

        for (var m = 0; m < since.Length; m++)
        {
            Close(m, take.FrameCount);
        }

        return found;
    }

    /// <summary>Half of the others tremble or travel more than a held sample does.</summary>
    private static bool OthersMove(MarkerTake take, int marker, int start, int end)
    {
        int moving = 0,
            seen = 0;
        for (var m = 0; m < take.MarkerCount; m++)
        {
            if (m != marker && MarkerTake.Seen(take[start, m]) && MarkerTake.Seen(take[end, m]))
            {
                seen++;
                moving += (take[end, m] - take[start, m]).LengthSquared() > 25 * Frozen * Frozen ? 1 : 0;
            }
        }

        return seen > 0 && moving * 2 > seen;
    }
}
