using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Inertial;

/// <summary>Lays the end of a way on its start: what it is off is shared out over the way walked, so that who stands still stays.</summary>
public static class PathClosing
{
    /// <summary>How far the end is from the start, over the floor, metres.</summary>
    public static double Gap(Motion motion) => Flat(Root(motion, motion.FrameCount - 1) - Root(motion, 0));

    /// <summary>The same motion with its last place over its first; planted feet are held again.</summary>
    public static Motion Close(Motion motion, IReadOnlyList<ContactEdit>? edits = null)
    {
        var result = motion.Copy();
        var walked = new double[motion.FrameCount];
        for (var f = 1; f < walked.Length; f++)
        {
            walked[f] = walked[f - 1] + Flat(Root(motion, f) - Root(motion, f - 1));
        }

        if (walked[^1] < 1e-6)
        {
            return result;
        }

        var off = Root(motion, 0) - Root(motion, motion.FrameCount - 1);
        for (var f = 0; f < walked.Length; f++)
        {
            var share = (float)(walked[f] / walked[^1]);
            result.Translations[f * motion.Skeleton.Count] += new Vector3(off.X, 0, off.Z) * share;
        }

        FootPin.Hold(result, 0, result.FrameCount - 1, edits ?? []);
        return result;
    }

    private static Vector3 Root(Motion m, int f) => m.Translations[f * m.Skeleton.Count];

    private static double Flat(Vector3 v) => Math.Sqrt((v.X * v.X) + (v.Z * v.Z));
}
