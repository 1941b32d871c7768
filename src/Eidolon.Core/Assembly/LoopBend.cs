using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>The way of a cycle bent or straightened: the body turns along with its way, a little more in every frame.</summary>
internal static class LoopBend
{
    /// <param name="motion">Its roots carry its pelvis.</param>
    /// <param name="start">First frame of the cycle; it stays where it is.</param>
    /// <param name="end">The frame a cycle later; it is turned by all of <paramref name="radians"/>.</param>
    /// <param name="radians">To the left.</param>
    public static Motion Bent(Motion motion, int start, int end, double radians)
    {
        var s = motion.Skeleton;
        var n = s.Count;
        var pelvis = Math.Max(0, s.IndexOf(BodyRole.Pelvis));
        var way = new Vector3[motion.FrameCount];
        var (turns, places) = (new Quaternion[n], new Vector3[n]);
        for (var f = 0; f < way.Length; f++)
        {
            ForwardKinematics.World(motion, f, turns, places);
            way[f] = places[pelvis];
        }

        Quaternion Turn(double frame) => Rotations.AboutAxis(1, radians * (frame - start) / (end - start));
        var bent = (Vector3[])way.Clone();
        for (var f = start + 1; f < way.Length; f++)
        {
            bent[f] = bent[f - 1] + Vector3.Transform(way[f] - way[f - 1], Turn(f - .5));
        }

        for (var f = start - 1; f >= 0; f--)
        {
            bent[f] = bent[f + 1] - Vector3.Transform(way[f + 1] - way[f], Turn(f + .5));
        }

        var result = motion.Copy();
        for (var f = 0; f < way.Length; f++)
        {
            var turn = Turn(f);
            for (var j = 0; j < n; j++)
            {
                if (s.Parents[j] < 0)
                {
                    var at = (f * n) + j;
                    result.Rotations[at] = Quaternion.Normalize(turn * motion.Rotations[at]);
                    result.Translations[at] = bent[f] + Vector3.Transform(motion.Translations[at] - way[f], turn);
                }
            }
        }

        return result;
    }
}
