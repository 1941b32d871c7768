using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Solving;

/// <summary>Where the solved skeleton carries a performer's markers, seen or not.</summary>
public static class CarriedMarkers
{
    /// <summary>The markers of a take that are one performer's, without what stands before their names.</summary>
    /// <param name="prefix">What stands before them; null when the performer is alone in the take.</param>
    public static MarkerTake Own(string? prefix, MarkerTake take)
    {
        var known = take.Names.Select(n => MarkerNames.Split(n).Performer).Where(p => p is not null).Distinct().ToArray();
        var wanted =
            prefix is not null && known.Contains(prefix) ? prefix
            : prefix is null && known.Length == 1 ? known[0]
            : null;
        return wanted is null ? take : MarkerNames.Subject(take, wanted);
    }

    /// <summary>Solves every performer that has markers in the take and carries all their markers; named as in the take.</summary>
    /// <exception cref="ArgumentException">Too few of a performer's markers are in the take.</exception>
    /// <exception cref="RefusedException">Nobody is measured.</exception>
    public static MarkerTake Of(IReadOnlyList<TakePerformer> performers, MarkerTake take, CancellationToken cancel = default)
    {
        var present = performers
            .Where(p => performers.Count == 1 || take.Names.Any(n => MarkerNames.Split(n).Performer == p.Prefix))
            .ToArray();
        if (present.Length == 0)
        {
            throw new RefusedException("the skeleton of no performer of this take is known");
        }

        var carried = present.Select(p => Of(p, take, cancel)).ToArray();
        var all = new MarkerTake([.. carried.SelectMany(c => c.Names)], take.FrameRate, take.FrameCount) { FirstFrame = take.FirstFrame };
        for (var (k, first) = (0, 0); k < carried.Length; first += carried[k++].MarkerCount)
        {
            for (var f = 0; f < take.FrameCount; f++)
            {
                carried[k].At(f).CopyTo(all.At(f)[first..]);
            }
        }

        return all;
    }

    private static MarkerTake Of(TakePerformer who, MarkerTake take, CancellationToken cancel)
    {
        var own = Own(who.Prefix, take);
        var (motion, _) = TakeSolver.Solve(who.Body, own, cancel);
        var prefix = ReferenceEquals(own, take) ? null : who.Prefix;
        var carried = new MarkerTake([.. who.Body.Markers.Select(m => MarkerNames.Join(prefix, m.Name))], take.FrameRate, take.FrameCount);
        var (turns, places) = (new Quaternion[motion.Skeleton.Count], new Vector3[motion.Skeleton.Count]);
        for (var f = 0; f < take.FrameCount; f++)
        {
            ForwardKinematics.World(motion, f, turns, places);
            for (var m = 0; m < who.Body.Markers.Count; m++)
            {
                var marker = who.Body.Markers[m];
                carried[f, m] = places[marker.Joint] + Vector3.Transform(marker.Offset, turns[marker.Joint]);
            }
        }

        return carried;
    }
}
