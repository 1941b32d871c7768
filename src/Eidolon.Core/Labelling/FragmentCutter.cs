using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Labelling;

/// <summary>Cuts trajectories into fragments: at every gap, and where a dot leaves its own path at once, as it does when two trajectories trade places.</summary>
internal static class FragmentCutter
{
    /// <summary>Farther beside the straight continuation than this is a jump, metres; the hardest strikes stay below at 100 Hz and more.</summary>
    private const float Jump = 0.011f;

    /// <param name="given">Subject and marker of a name that is there already; null for none.</param>
    /// <param name="leftAlone">Trajectories by these names are not looked at.</param>
    public static List<Fragment> Cut(MarkerTake take, Func<string, (int, int)?> given, Func<string, bool> leftAlone)
    {
        // Slow recordings move farther from frame to frame.
        var jump = Jump * MathF.Max(1, (float)(120 / take.FrameRate) * (float)(120 / take.FrameRate));
        var cut = new List<Fragment>();
        for (var m = 0; m < take.MarkerCount; m++)
        {
            if (leftAlone(take.Names[m]))
            {
                continue;
            }

            var name = given(take.Names[m]);
            var start = -1;
            for (var f = 0; f <= take.FrameCount; f++)
            {
                var seen = f < take.FrameCount && MarkerTake.Seen(take[f, m]);
                if (seen && start >= 0 && name is null && Jumps(take, m, f, start, jump))
                {
                    cut.Add(new Fragment(0, m, start, f - 1, name));
                    start = f;
                }
                else if (seen && start < 0)
                {
                    start = f;
                }
                else if (!seen && start >= 0)
                {
                    cut.Add(new Fragment(0, m, start, f - 1, name));
                    start = -1;
                }
            }
        }

        return [.. cut.OrderBy(c => c.Start).ThenBy(c => c.Column).Select((c, i) => c with { Index = i })];
    }

    /// <summary>Off the line from before, and the line from after does not lead back either.</summary>
    private static bool Jumps(MarkerTake take, int m, int f, int start, float jump)
    {
        if (f - start < 2)
        {
            return (take[f, m] - take[f - 1, m]).Length() > 6 * jump;
        }

        var ahead = take[f, m] - ((2 * take[f - 1, m]) - take[f - 2, m]);
        if (ahead.Length() <= jump)
        {
            return false;
        }

        if (f + 1 >= take.FrameCount || !MarkerTake.Seen(take[f + 1, m]))
        {
            return ahead.Length() > 2 * jump;
        }

        var back = take[f - 1, m] - ((2 * take[f, m]) - take[f + 1, m]);
        return back.Length() > jump && Vector3.Dot(take[f, m] - take[f - 1, m], ahead) > 0;
    }
}
