using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.StandIns.Optical;

/// <summary>Takes the names away: a marker that comes back after being hidden is a new dot, and ghosts appear for a few frames.</summary>
public static class DotMaker
{
    /// <summary>Unnamed trajectories <c>Dot_001…</c>; <paramref name="truth"/> gives the true name of each, null for a ghost.</summary>
    /// <param name="swaps">How often two near trajectories trade places for good.</param>
    public static MarkerTake Make(MarkerTake labelled, int seed, out string?[] truth, int swaps = 0)
    {
        var random = new Random(seed);
        var pieces = new List<(int Marker, int Start, int End)>();
        for (var m = 0; m < labelled.MarkerCount; m++)
        {
            var start = -1;
            for (var f = 0; f <= labelled.FrameCount; f++)
            {
                var seen = f < labelled.FrameCount && MarkerTake.Seen(labelled[f, m]);
                if (seen && start < 0)
                {
                    start = f;
                }
                else if (!seen && start >= 0)
                {
                    pieces.Add((m, start, f - 1));
                    start = -1;
                }
            }
        }

        var ghosts = (int)(labelled.FrameCount / labelled.FrameRate / 2);
        for (var g = 0; g < ghosts; g++)
        {
            var f = random.Next(labelled.FrameCount);
            pieces.Add((-1, f, Math.Min(labelled.FrameCount - 1, f + random.Next(1, 6))));
        }

        var order = pieces.OrderBy(p => p.Start).ThenBy(_ => random.Next()).ToArray();
        var take = new MarkerTake([.. order.Select((_, i) => $"Dot_{i + 1:000}")], labelled.FrameRate, labelled.FrameCount);
        truth = [.. order.Select(p => p.Marker < 0 ? null : labelled.Names[p.Marker])];
        for (var i = 0; i < order.Length; i++)
        {
            var at = new Vector3((random.NextSingle() - 0.5f) * 6, random.NextSingle() * 2.2f, (random.NextSingle() - 0.5f) * 4);
            for (var f = order[i].Start; f <= order[i].End; f++)
            {
                take[f, i] = order[i].Marker < 0 ? at : labelled[f, order[i].Marker];
            }
        }

        for (int done = 0, tries = 0; done < swaps && tries < 4000; tries++)
        {
            done += Trade(take, random.Next(10, take.FrameCount - 10), random) ? 1 : 0;
        }

        return take;
    }

    /// <summary>From a frame on, two trajectories that are near each other carry each other's samples.</summary>
    private static bool Trade(MarkerTake take, int frame, Random random)
    {
        var here = Enumerable
            .Range(0, take.MarkerCount)
            .Where(m => MarkerTake.Seen(take[frame, m]) && MarkerTake.Seen(take[frame - 1, m]))
            .ToArray();
        if (here.Length < 2)
        {
            return false;
        }

        var a = here[random.Next(here.Length)];
        var b = here.Where(m => m != a).MinBy(m => (take[frame, m] - take[frame, a]).Length());
        if ((take[frame, a] - take[frame, b]).Length() > 0.09f)
        {
            return false;
        }

        for (var f = frame; f < take.FrameCount; f++)
        {
            (take[f, a], take[f, b]) = (take[f, b], take[f, a]);
        }

        return true;
    }
}
