using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Quality;

/// <summary>Finds where two trajectories trade places: both leave their path in the same frame, and each goes on where the other was heading.</summary>
public static class SwapFinder
{
    /// <summary>How near a trajectory goes on to where the other was heading, metres.</summary>
    private const float Near = 0.012f;

    /// <param name="Frame">The first frame with the names the wrong way round (or right again).</param>
    public readonly record struct Swap(int Frame, int A, int B);

    /// <summary>Frames in which two markers trade places.</summary>
    public static List<Swap> Find(MarkerTake take)
    {
        var found = new List<Swap>();
        var near = Near * MathF.Max(1, (float)(120 / take.FrameRate));
        var jumping = new List<int>();
        for (var f = 2; f < take.FrameCount - 1; f++)
        {
            jumping.Clear();
            for (var m = 0; m < take.MarkerCount; m++)
            {
                // Away from its own course, and not back in the next frame: a spike comes back.
                if (
                    Heading(take, f, m) is { } course
                    && MarkerTake.Seen(take[f, m])
                    && (take[f, m] - course).Length() > near
                    && !(MarkerTake.Seen(take[f + 1, m]) && (take[f + 1, m] - course).Length() < near)
                )
                {
                    jumping.Add(m);
                }
            }

            for (var i = 0; i < jumping.Count; i++)
            {
                for (var k = i + 1; k < jumping.Count; k++)
                {
                    var (a, b) = (jumping[i], jumping[k]);
                    if (
                        (take[f, a] - Heading(take, f, b)!.Value).Length() < near
                        && (take[f, b] - Heading(take, f, a)!.Value).Length() < near
                    )
                    {
                        found.Add(new Swap(f, a, b));
                    }
                }
            }
        }

        return found;
    }

    /// <summary>Where a trajectory would be at a frame if it went straight on.</summary>
    private static Vector3? Heading(MarkerTake take, int f, int m) =>
        MarkerTake.Seen(take[f - 1, m]) && MarkerTake.Seen(take[f - 2, m]) ? (2 * take[f - 1, m]) - take[f - 2, m] : null;
}
