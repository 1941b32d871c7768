using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Labelling;

/// <summary>
/// Cuts trajectories into fragments: at every gap, where a dot leaves its own path at once, and where two dots near each other go on more smoothly with
/// each other's samples than with their own, as they do after they have traded places.
/// </summary>
internal static class FragmentCutter
{
    /// <summary>Farther beside the straight continuation than this is a jump, metres; the hardest strikes stay below at 100 Hz and more.</summary>
    private const float Jump = 0.011f;

    /// <param name="given">Subject and marker of a name that is there already; null for none.</param>
    /// <param name="leftAlone">Trajectories by these names are not looked at.</param>
    public static List<Fragment> Cut(MarkerTake take, Func<string, (int, int)?> given, Func<string, bool> leftAlone)
    {
        var traded = Trades(take);
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
                if (seen && start >= 0 && name is null && (traded.Contains((m, f)) || Jumps(take, m, f, start, jump)))
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

    /// <summary>Dots farther apart than this do not trade places, metres.</summary>
    private const float Near = 0.12f;

    /// <summary>Traded paths are smoother than the dots' own by this factor, and the dots' own are rougher than that, metres.</summary>
    private const float Smoother = 0.3f,
        Rough = 0.012f;

    /// <summary>Trajectory and first frame of dots that carry another's samples from there on.</summary>
    private static HashSet<(int Marker, int Frame)> Trades(MarkerTake take)
    {
        var found = new HashSet<(int, int)>();
        var here = new List<int>();
        for (var f = 2; f + 1 < take.FrameCount; f++)
        {
            here.Clear();
            for (var m = 0; m < take.MarkerCount; m++)
            {
                if (
                    MarkerTake.Seen(take[f - 2, m])
                    && MarkerTake.Seen(take[f - 1, m])
                    && MarkerTake.Seen(take[f, m])
                    && MarkerTake.Seen(take[f + 1, m])
                )
                {
                    here.Add(m);
                }
            }

            foreach (var a in here)
            {
                // A path as smooth as any has not been left.
                var own = Third(take, f, a, a);
                if (own < Rough)
                {
                    continue;
                }

                foreach (var b in here)
                {
                    if (
                        b != a
                        && (take[f, a] - take[f, b]).LengthSquared() < Near * Near
                        && Third(take, f, b, b) is var other
                        && other > Rough
                        && Third(take, f, a, b) + Third(take, f, b, a) < Smoother * (own + other)
                    )
                    {
                        found.Add((a, f));
                    }
                }
            }
        }

        return found;
    }

    /// <summary>Third difference of a path that is one dot's up to a frame and another's from it on, metres.</summary>
    private static float Third(MarkerTake take, int f, int before, int after) =>
        (take[f + 1, after] - (3 * take[f, after]) + (3 * take[f - 1, before]) - take[f - 2, before]).Length();
}
