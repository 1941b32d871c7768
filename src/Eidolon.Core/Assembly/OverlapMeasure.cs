using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>How well an overlap went, measured on the result alone.</summary>
internal static class OverlapMeasure
{
    /// <summary>Contacts are looked for so far around an overlap, seconds.</summary>
    public const double Around = 0.6;

    /// <summary>Greatest acceleration of any joint, metres a frame squared.</summary>
    public static float Peak(Motion motion, int start, int end)
    {
        var n = motion.Skeleton.Count;
        var (from, to) = (Math.Max(0, start - 1), Math.Min(motion.FrameCount - 1, end + 1));
        var turns = new Quaternion[n];
        var (a, b, c) = (new Vector3[n], new Vector3[n], new Vector3[n]);
        var peak = 0f;
        for (var f = from; f <= to; f++)
        {
            (a, b, c) = (b, c, a);
            ForwardKinematics.World(motion, f, turns, c);
            for (var j = 0; f >= from + 2 && j < n; j++)
            {
                peak = MathF.Max(peak, (a[j] - (2 * b[j]) + c[j]).LengthSquared());
            }
        }

        return MathF.Sqrt(peak);
    }

    /// <summary>Farthest way of a planted foot or its toes over the floor in one frame of a range, millimetres.</summary>
    public static double Slide(Motion motion, int start, int end)
    {
        var margin = (int)(Around * motion.FrameRate);
        var from = Math.Max(0, start - margin);
        var cut = MotionEdits.Range(motion, from, Math.Min(motion.FrameCount, end + margin + 1));
        var world = ForwardKinematics.WorldPositions(cut);
        var (n, worst) = (cut.Skeleton.Count, 0.0);
        foreach (var c in BodyContacts.Find(cut).Joints)
        {
            var j = cut.Skeleton.IndexOf(c.Role);
            for (var f = Math.Max(c.Start + 1, start - from); f <= Math.Min(c.End, end - from + 1); f++)
            {
                var d = world[(f * n) + j] - world[((f - 1) * n) + j];
                worst = Math.Max(worst, Math.Sqrt((d.X * d.X) + (d.Z * d.Z)));
            }
        }

        return worst * 1000;
    }
}
