using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>When a performer's hands hold a prop: they are at it, and go where it goes.</summary>
public static class GripFinder
{
    /// <summary>A hand holds while it hardly moves as the prop sees it, metres a second; near the prop's markers, metres; for so long, seconds.</summary>
    private const float Still = 0.12f,
        Near = 0.22f;

    private const double Window = 0.1,
        Shortest = 0.3,
        Join = 0.35;

    /// <summary>A prop that nobody holds stands still: a grip takes it somewhere, metres.</summary>
    private const float Carried = 0.10f;

    /// <summary>The hands that hold one of some props, in order of time.</summary>
    /// <param name="motion">The performer's, with hands.</param>
    /// <param name="props">Markers of each prop, and where it is, on the motion's frames.</param>
    public static IReadOnlyList<Grip> Find(Motion motion, IReadOnlyList<(RigidBody Body, PropPlaces Places)> props)
    {
        var s = motion.Skeleton;
        var world = ForwardKinematics.WorldPositions(motion);
        var grips = new List<Grip>();
        for (var prop = 0; prop < props.Count; prop++)
        {
            foreach (var hand in new[] { BodyRole.HandL, BodyRole.HandR })
            {
                if (s.IndexOf(hand) is >= 0 and var joint)
                {
                    var path = new Vector3[Math.Min(motion.FrameCount, props[prop].Places.FrameCount)];
                    for (var f = 0; f < path.Length; f++)
                    {
                        path[f] = world[(f * s.Count) + joint];
                    }

                    grips.AddRange(Ranges(path, props[prop], motion.FrameRate).Select(r => new Grip(hand, prop, r.Start, r.End)));
                }
            }
        }

        return [.. grips.OrderBy(g => g.Start)];
    }

    /// <summary>A set-up in which a character meets the props: in the performer's footprints, each hand held while it holds something.</summary>
    /// <returns>The same set-up when nothing is held.</returns>
    public static RetargetSetup Meet(RetargetSetup setup, IReadOnlyList<Grip> grips, double rate)
    {
        foreach (var group in grips.GroupBy(g => g.Hand))
        {
            setup = setup.With(group.Key, setup.Hold(group.Key) with { Keys = Keys([.. group], (int)Math.Round(Join * rate)) }) with
            {
                ScaleTravel = false,
            };
        }

        return setup;
    }

    private static List<HoldKey> Keys(Grip[] grips, int ease)
    {
        var keys = new List<HoldKey>();
        foreach (var grip in grips.OrderBy(g => g.Start))
        {
            var from = Math.Max(0, grip.Start - ease);
            while (keys.Count > 0 && keys[^1].Frame >= from)
            {
                // The hand goes over from one thing to the next.
                keys.RemoveAt(keys.Count - 1);
            }

            if (from < grip.Start && (keys.Count == 0 || keys[^1].Place < 1))
            {
                keys.Add(new HoldKey(from, 0, 1));
            }

            if (keys.Count == 0 || keys[^1].Frame < grip.Start)
            {
                keys.Add(new HoldKey(grip.Start, 1, 1));
            }

            if (grip.End > keys[^1].Frame)
            {
                keys.Add(new HoldKey(grip.End, 1, 1));
            }

            keys.Add(new HoldKey(grip.End + ease, 0, 1));
        }

        return keys;
    }

    private static IEnumerable<(int Start, int End)> Ranges(Vector3[] hand, (RigidBody Body, PropPlaces Places) prop, double rate)
    {
        var reach = Math.Max(1, (int)Math.Round(Window / 2 * rate));
        var local = new Vector3[hand.Length];
        for (var f = 0; f < hand.Length; f++)
        {
            local[f] = Vector3.Transform(hand[f] - prop.Places.Positions[f], Quaternion.Conjugate(prop.Places.Turns[f]));
        }

        Vector3 low = prop.Body.Markers.Aggregate(Vector3.Min) - new Vector3(Near),
            high = prop.Body.Markers.Aggregate(Vector3.Max) + new Vector3(Near);
        bool Holds(int f)
        {
            int a = Math.Max(0, f - reach),
                b = Math.Min(hand.Length - 1, f + reach);
            var speed = Vector3.Distance(local[a], local[b]) * rate / Math.Max(1, b - a);
            // Not a number where the prop is not seen: no grip.
            return speed < Still && Vector3.Clamp(local[f], low, high) == local[f];
        }

        var join = (int)(Join * rate);
        for (var f = 0; f < hand.Length; f++)
        {
            if (!Holds(f))
            {
                continue;
            }

            var end = f;
            for (var g = f; g < hand.Length && g - end <= join; g++)
            {
                end = Holds(g) ? g : end;
            }

            if ((end - f) / rate >= Shortest && Moved(prop.Places, f, end))
            {
                yield return (f, end);
            }

            f = end + join;
        }
    }

    private static bool Moved(PropPlaces places, int start, int end)
    {
        var from = places.Positions[start];
        for (var f = start; f <= end; f++)
        {
            if (Vector3.Distance(places.Positions[f], from) > Carried)
            {
                return true;
            }
        }

        return false;
    }
}
