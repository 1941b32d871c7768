using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Solving;

/// <summary>Where the solved skeleton carries a performer's markers, seen or not.</summary>
public static class CarriedMarkers
{
    /// <summary>The performer's own markers of a take: those with their name in front when the take has several performers.</summary>
    public static MarkerTake Own(Performer performer, MarkerTake take) =>
        take.Names.Any(n => MarkerNames.Split(n).Performer == performer.Name) ? MarkerNames.Subject(take, performer.Name) : take;

    /// <summary>Solves the take and carries every marker; named as in the take.</summary>
    /// <exception cref="ArgumentException">Too few of the performer's markers are in the take.</exception>
    public static MarkerTake Of(Performer performer, MarkerTake take, CancellationToken cancel = default)
    {
        var own = Own(performer, take);
        var (motion, _) = TakeSolver.Solve(performer, own, cancel);
        var prefix = ReferenceEquals(own, take) ? string.Empty : performer.Name + ":";
        var carried = new MarkerTake([.. performer.Markers.Select(m => prefix + m.Name)], take.FrameRate, take.FrameCount)
        {
            FirstFrame = take.FirstFrame,
        };
        var (turns, places) = (new Quaternion[motion.Skeleton.Count], new Vector3[motion.Skeleton.Count]);
        for (var f = 0; f < take.FrameCount; f++)
        {
            ForwardKinematics.World(motion, f, turns, places);
            for (var m = 0; m < performer.Markers.Count; m++)
            {
                var marker = performer.Markers[m];
                carried[f, m] = places[marker.Joint] + Vector3.Transform(marker.Offset, turns[marker.Joint]);
            }
        }

        return carried;
    }
}
