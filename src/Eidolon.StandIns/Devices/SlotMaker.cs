using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.StandIns.Devices;

/// <summary>Gives dots a slot as a ring would: a dot that comes back after being hidden may get another one.</summary>
public static class SlotMaker
{
    /// <summary>For one performer; more markers get more of them.</summary>
    private const int Fewest = 72;

    /// <summary>Nameless trajectories in a fixed number of slots; a slot rests half a second before it is used again.</summary>
    public static MarkerTake Make(MarkerTake labelled, int seed)
    {
        var random = new Random(seed);
        var rest = (int)(labelled.FrameRate / 2);
        var slots = Math.Max(Fewest, labelled.MarkerCount * 4 / 3);
        var slotOf = new int[labelled.MarkerCount];
        Array.Fill(slotOf, -1);
        var freeFrom = new int[slots];
        var busy = new bool[slots];
        var take = new MarkerTake([.. Enumerable.Range(1, slots).Select(i => $"Dot_{i:000}")], labelled.FrameRate, labelled.FrameCount);
        for (var f = 0; f < labelled.FrameCount; f++)
        {
            foreach (var m in Enumerable.Range(0, labelled.MarkerCount).OrderBy(_ => f == 0 ? random.Next() : 0))
            {
                var seen = MarkerTake.Seen(labelled[f, m]);
                if (!seen && slotOf[m] >= 0)
                {
                    busy[slotOf[m]] = false;
                    freeFrom[slotOf[m]] = f + rest;
                    slotOf[m] = -1;
                }
                else if (seen && slotOf[m] < 0)
                {
                    slotOf[m] = Enumerable
                        .Range(0, slots)
                        .Where(s => !busy[s])
                        .OrderBy(s => freeFrom[s] > f ? freeFrom[s] + 1_000_000 : s)
                        .First();
                    busy[slotOf[m]] = true;
                }

                if (seen)
                {
                    take[f, slotOf[m]] = labelled[f, m];
                }
            }
        }

        return take;
    }
}
