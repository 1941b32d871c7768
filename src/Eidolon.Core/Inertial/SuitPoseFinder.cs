using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Inertial;

/// <summary>Finds at the beginning of a suit's recording where its wearer held still, stood in the T-pose and in the A-pose.</summary>
internal static class SuitPoseFinder
{
    /// <summary>A pose is held when no sensor turns faster than this, rad/s, for so long, seconds; looked for in the first minutes.</summary>
    private const double StillSpeed = 0.22,
        LeastSeconds = 0.6,
        SearchSeconds = 120;

    /// <summary>
    /// From T to A the upper arms turn by this much, degrees, and nothing else by more than that. From hanging arms to the T they turn by more.
    /// </summary>
    private const double ArmsLeast = 20,
        ArmsMost = 68,
        RestMost = 14;

    /// <summary>How far apart T-pose and A-pose may be, seconds.</summary>
    private const double Apart = 20;

    /// <exception cref="RefusedException">There is no still stretch, or no T-pose followed by an A-pose; says which.</exception>
    public static SuitPoses Find(IReadOnlyList<SensorTrack> tracks)
    {
        var held = Held(tracks);
        if (held.Count == 0)
        {
            throw new RefusedException(
                "nobody holds still in it: a recording begins with a second or more of standing still, then the T-pose and the A-pose"
            );
        }

        // Something is held still before the T-pose; only where nothing is, the T-pose does for both.
        foreach (var t in Enumerable.Range(1, held.Count - 1).Append(0))
        {
            for (var a = t + 1; a < held.Count && held[a].Start - held[t].End < Apart * tracks[0].Rate; a++)
            {
                if (ArmsLowered(tracks, held[t], held[a]))
                {
                    return new SuitPoses(t > 0 ? held[t - 1] : held[t], Inner(held[t]), Inner(held[a]));
                }
            }
        }

        throw new RefusedException(
            $"of {held.Count} stretches in which nobody moves none is a T-pose with an A-pose after it: give the frames of both with --poses"
        );
    }

    /// <summary>The ends of a stretch still settle.</summary>
    private static FrameRange Inner(FrameRange r) => new(r.Start + (r.Length / 5), r.End - (r.Length / 5));

    private static List<FrameRange> Held(IReadOnlyList<SensorTrack> tracks)
    {
        var (rate, count) = (tracks[0].Rate, (int)Math.Min(tracks[0].Count, SearchSeconds * tracks[0].Rate));
        var window = Math.Max(1, (int)(0.2 * rate));
        var fastest = new double[count];
        foreach (var track in tracks)
        {
            Vector3d sum = default;
            for (var f = 0; f < count; f++)
            {
                sum += track.Gyroscope[f];
                if (f >= window)
                {
                    sum -= track.Gyroscope[f - window];
                }

                var at = Math.Max(0, f - (window / 2));
                fastest[at] = Math.Max(fastest[at], sum.Length / Math.Min(f + 1, window));
            }
        }

        var result = new List<FrameRange>();
        var start = -1;
        for (var f = 0; f <= count; f++)
        {
            if (f < count && fastest[f] < StillSpeed)
            {
                start = start < 0 ? f : start;
            }
            else if (start >= 0)
            {
                if (f - start >= LeastSeconds * rate)
                {
                    result.Add(new FrameRange(start, f - 1));
                }

                start = -1;
            }
        }

        return result;
    }

    /// <summary>Both upper arms turned, to opposite sides about one line along the floor, and the trunk and legs did not.</summary>
    private static bool ArmsLowered(IReadOnlyList<SensorTrack> tracks, FrameRange from, FrameRange to)
    {
        Vector3d Turn(BodyRole role)
        {
            var track = tracks[SuitBones.IndexOf(role)];
            var up = SensorTrack.Mean(track.Accelerometer, from).Normalised();
            return Turned(track, SensorTrack.Mean(track.Gyroscope, from), (from.Start + from.End) / 2, (to.Start + to.End) / 2, up);
        }

        const double degree = Math.PI / 180;
        if (
            new[] { BodyRole.Pelvis, BodyRole.ThighL, BodyRole.ThighR, BodyRole.ShinL, BodyRole.ShinR }.Any(r =>
                Turn(r).Length > RestMost * degree
            )
        )
        {
            return false;
        }

        var (left, right) = (Turn(BodyRole.UpperArmL), Turn(BodyRole.UpperArmR));
        return left.Length > ArmsLeast * degree
            && right.Length > ArmsLeast * degree
            && left.Length < ArmsMost * degree
            && right.Length < ArmsMost * degree;
    }

    /// <summary>The turn between two frames as a rotation vector whose vertical part is left out (the arms go down, not round).</summary>
    private static Vector3d Turned(SensorTrack track, Vector3d bias, int a, int b, Vector3d up)
    {
        var q = Quaterniond.Identity;
        for (var f = a; f < b; f++)
        {
            var w = ((track.Gyroscope[f] + track.Gyroscope[f + 1]) * 0.5) - bias;
            q = (q * Quaterniond.Exp(w.X / track.Rate, w.Y / track.Rate, w.Z / track.Rate)).Normalized();
        }

        var v = q.Log();
        return v - (up * Vector3d.Dot(v, up));
    }
}
