using System.Numerics;

namespace Eidolon.Core.Markers;

/// <summary>Finds a prop in a take by its shape: the live tracker over every frame, short holes bridged.</summary>
public static class PropFinder
{
    /// <summary>A hole up to this long is bridged along the shortest way, seconds; a longer one stays a hole.</summary>
    private const double LongestHole = 0.25;

    /// <param name="take">Markers that carry a performer's or another prop's name are left to them.</param>
    /// <returns>The places, and the RMS distance of the markers from the shape, millimetres (NaN when it is never seen).</returns>
    public static (PropPlaces Places, double RmsMillimetres) Find(
        MarkerTake take,
        RigidBody prop,
        IReadOnlySet<string> taken,
        CancellationToken cancel = default,
        IProgress<double>? progress = null
    )
    {
        var positions = new Vector3[take.FrameCount];
        var turns = new Quaternion[take.FrameCount];
        double squares = 0;
        var seen = 0;
        Follow(
            take,
            prop,
            taken,
            (f, pose) =>
            {
                (positions[f], turns[f]) = pose.Trusted ? (pose.Position, pose.Rotation) : (MarkerTake.Hidden, Quaternion.Identity);
                if (pose.Trusted)
                {
                    squares += pose.RmsMillimetres * pose.RmsMillimetres;
                    seen++;
                }
            },
            cancel,
            progress
        );
        var places = new PropPlaces(take.FrameRate, positions, turns, take.FirstFrame);
        Bridge(places);
        return (places, seen == 0 ? double.NaN : Math.Sqrt(squares / seen));
    }

    /// <summary>The pose of the prop in every frame, in order.</summary>
    private static void Follow(
        MarkerTake take,
        RigidBody prop,
        IReadOnlySet<string> taken,
        Action<int, RigidPose> frame,
        CancellationToken cancel,
        IProgress<double>? progress
    )
    {
        int[] columns = [.. Enumerable.Range(0, take.MarkerCount).Where(m => !taken.Contains(take.Names[m]))];
        var tracker = new RigidBodyTracker(prop);
        var points = new List<Vector3>(columns.Length);
        var ids = new List<int>(columns.Length);
        for (var f = 0; f < take.FrameCount; f++)
        {
            if (f % 512 == 0)
            {
                cancel.ThrowIfCancellationRequested();
                progress?.Report((double)f / take.FrameCount);
            }

            points.Clear();
            ids.Clear();
            var samples = take.At(f);
            foreach (var m in columns)
            {
                if (MarkerTake.Seen(samples[m]))
                {
                    points.Add(samples[m]);
                    ids.Add(m);
                }
            }

            frame(f, tracker.Step(points, ids));
        }
    }

    /// <summary>How many samples of a take are this prop's markers.</summary>
    public static long Samples(MarkerTake take, RigidBody prop, IReadOnlySet<string> taken, CancellationToken cancel = default)
    {
        long samples = 0;
        Follow(take, prop, taken, (_, pose) => samples += pose.Trusted ? pose.Seen : 0, cancel, null);
        return samples;
    }

    private static void Bridge(PropPlaces places)
    {
        var longest = (int)Math.Round(LongestHole * places.FrameRate);
        var last = -1;
        for (var f = 0; f < places.FrameCount; f++)
        {
            if (!MarkerTake.Seen(places.Positions[f]))
            {
                continue;
            }

            for (var k = last + 1; last >= 0 && f - last - 1 <= longest && k < f; k++)
            {
                var t = (float)(k - last) / (f - last);
                places.Positions[k] = Vector3.Lerp(places.Positions[last], places.Positions[f], t);
                places.Turns[k] = Quaternion.Normalize(Quaternion.Slerp(places.Turns[last], places.Turns[f], t));
            }

            last = f;
        }
    }
}
