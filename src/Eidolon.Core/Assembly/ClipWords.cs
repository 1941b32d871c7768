using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>What a clip is, in words to find it by: how it moves, where it turns, how it begins and ends.</summary>
public static class ClipWords
{
    /// <summary>Slower than this the hips stand, faster than <see cref="Runs"/> they run, metres a second for a person of 1.7 m.</summary>
    private const float Walks = 0.35f,
        Runs = 2.2f;

    /// <summary>A heading that ends so many degrees from where it began is a turn.</summary>
    private const float Turns = 50;

    /// <summary>The pelvis lower or higher at the end, as a share of the legs.</summary>
    private const float Climbs = 0.25f;

    /// <summary>Words, the most telling first; none for a motion without a body.</summary>
    public static IReadOnlyList<string> Of(Motion motion)
    {
        var s = motion.Skeleton;
        var (pelvis, foot) = (s.IndexOf(BodyRole.Pelvis), s.IndexOf(BodyRole.FootL));
        if (pelvis < 0 || foot < 0 || motion.FrameCount < 2)
        {
            return [];
        }

        var (path, headings) = Way(motion, pelvis);
        var leg = MathF.Max(.1f, s.RestPositions[pelvis].Y - s.RestPositions[foot].Y);
        // Larger people go faster: speeds are those of a leg of 0.85 m (Froude).
        var size = MathF.Sqrt(leg / .85f);
        var speeds = Speeds(path, motion.FrameRate);
        var most = speeds[(int)((speeds.Length - 1) * .75f)] / size;
        var words = new List<string>
        {
            most > Runs ? "run"
            : most > Walks ? "walk"
            : "stand",
        };
        if (MathF.Abs(headings[^1] - headings[0]) * 180 / MathF.PI > Turns)
        {
            words.Add(headings[^1] > headings[0] ? "turns left" : "turns right");
        }

        var rise = path[^1].Y - path[0].Y;
        if (MathF.Abs(rise) > Climbs * leg)
        {
            words.Add(rise > 0 ? "goes up" : "goes down");
        }

        var edge = Math.Min(path.Length - 1, (int)(motion.FrameRate * .25));
        bool Still(int from, int to) => (path[to] - path[from]).Length() / ((to - from) / motion.FrameRate) / size < Walks;
        words.AddRange(edge > 0 && Still(0, edge) ? ["starts standing"] : []);
        words.AddRange(edge > 0 && Still(path.Length - 1 - edge, path.Length - 1) ? ["ends standing"] : []);
        if (FirstFoot(motion) is { } first)
        {
            words.Add($"{first} foot first");
        }

        return words;
    }

    private static (Vector3[] Path, float[] Headings) Way(Motion motion, int pelvis)
    {
        var n = motion.Skeleton.Count;
        var (turns, places) = (new Quaternion[n], new Vector3[n]);
        var (path, headings) = (new Vector3[motion.FrameCount], new float[motion.FrameCount]);
        for (var f = 0; f < motion.FrameCount; f++)
        {
            ForwardKinematics.World(motion, f, turns, places);
            path[f] = places[pelvis];
            var ahead = Vector3.Transform(Vector3.UnitZ, turns[pelvis] * Quaternion.Conjugate(motion.Skeleton.RestRotations[pelvis]));
            var heading = MathF.Atan2(ahead.X, ahead.Z);
            // Without jumps at half a turn.
            headings[f] = f == 0 ? heading : headings[f - 1] + MathF.IEEERemainder(heading - headings[f - 1], 2 * MathF.PI);
        }

        return (path, headings);
    }

    /// <summary>Speeds over the floor over a quarter of a second, sorted.</summary>
    private static float[] Speeds(Vector3[] path, double rate)
    {
        var step = Math.Clamp((int)(rate * .25), 1, path.Length - 1);
        var speeds = new float[path.Length - step];
        for (var f = 0; f < speeds.Length; f++)
        {
            speeds[f] = (float)(((path[f + step] - path[f]) with { Y = 0 }).Length() / (step / rate));
        }

        Array.Sort(speeds);
        return speeds;
    }

    /// <summary>The foot that leaves the floor first.</summary>
    private static string? FirstFoot(Motion motion)
    {
        var feet = BodyContacts
            .Find(motion)
            .Joints.Where(c => c.End < motion.FrameCount - 2)
            .GroupBy(c => BodyRoles.Side(c.Role))
            .Select(g => (Side: g.Key, Leaves: g.GroupBy(c => c.Role).Min(r => r.Min(c => c.End))))
            .OrderBy(f => f.Leaves)
            .ToList();
        return feet.Count == 0 ? null
            : feet[0].Side == 'L' ? "left"
            : "right";
    }
}
