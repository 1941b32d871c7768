using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Studio.Services;

/// <summary>How a file that was read back differs from what it was meant to hold, channel by channel, at the worst frame.</summary>
/// <param name="Millimetres">Largest distance of a joint.</param>
/// <param name="Degrees">Largest angle between a joint's orientations.</param>
/// <param name="Weight">Largest difference of a face weight, 0 to 1.</param>
/// <param name="Missing">Channels that the file does not hold: joints, face weights, or frames.</param>
public sealed record ReadBack(double Millimetres, double Degrees, double Weight, IReadOnlyList<string> Missing)
{
    /// <summary>Compares every channel: joints by position and orientation in the world, face weights by name.</summary>
    /// <param name="holdsOrientations">The file holds orientations in the axes of <paramref name="meant"/>; where it does not, positions tell.</param>
    public static ReadBack Of(Motion meant, Motion back, bool holdsOrientations = true)
    {
        string[] missing =
        [
            .. meant.FrameCount == back.FrameCount ? [] : new[] { $"{meant.FrameCount - back.FrameCount} frames" },
            .. meant.Skeleton.Joints.Where(j => back.Skeleton.IndexOf(j.Name) < 0).Select(j => $"joint {j.Name}"),
            .. meant.Morphs.Keys.Where(m => !back.Morphs.ContainsKey(m)).Select(m => $"face weight {m}"),
        ];
        var frames = Math.Min(meant.FrameCount, back.FrameCount);
        var (millimetres, degrees) = Joints(meant, back, frames, holdsOrientations);
        return new ReadBack(millimetres, degrees, Weights(meant, back, frames), missing);
    }

    private static (double Millimetres, double Degrees) Joints(Motion meant, Motion back, int frames, bool turns)
    {
        var pairs = Enumerable
            .Range(0, meant.Skeleton.Count)
            .Select(j => (Meant: j, Back: back.Skeleton.IndexOf(meant.Skeleton[j].Name)))
            .Where(p => p.Back >= 0)
            .ToArray();
        var (a, b) = (World(meant), World(back));
        double millimetres = 0,
            degrees = 0;
        for (var f = 0; f < frames; f++)
        {
            ForwardKinematics.World(meant, f, a.Turns, a.Places);
            ForwardKinematics.World(back, f, b.Turns, b.Places);
            foreach (var (i, j) in pairs)
            {
                millimetres = Math.Max(millimetres, (a.Places[i] - b.Places[j]).Length() * 1000);
                degrees = turns ? Math.Max(degrees, Rotations.Angle(a.Turns[i], b.Turns[j]) * 180 / Math.PI) : 0;
            }
        }

        return (millimetres, degrees);
    }

    private static (System.Numerics.Quaternion[] Turns, System.Numerics.Vector3[] Places) World(Motion motion) =>
        (new System.Numerics.Quaternion[motion.Skeleton.Count], new System.Numerics.Vector3[motion.Skeleton.Count]);

    private static double Weights(Motion meant, Motion back, int frames)
    {
        double worst = 0;
        foreach (var (name, weights) in meant.Morphs)
        {
            if (back.Morphs.TryGetValue(name, out var got))
            {
                for (var f = 0; f < frames; f++)
                {
                    worst = Math.Max(worst, Math.Abs(weights[f] - got[f]));
                }
            }
        }

        return worst;
    }
}
