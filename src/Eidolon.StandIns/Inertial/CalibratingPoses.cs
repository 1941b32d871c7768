using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Optical;

namespace Eidolon.StandIns.Inertial;

/// <summary>What the wearer of a suit does before anything else: stands still, holds the T-pose facing +Z, holds the A-pose, and goes on.</summary>
public static class CalibratingPoses
{
    /// <summary>Seconds of standing still, T-pose, A-pose, and of each move between them.</summary>
    private const double Held = 2.6,
        Move = 1.1;

    /// <summary>Arms hang by so many degrees below the T-pose, and stand so far below it in the A-pose.</summary>
    private const float Hanging = 78,
        Lowered = 42;

    /// <summary>How long the poses take until the motion itself begins, seconds.</summary>
    public const double Seconds = (3 * Held) + (3 * Move);

    /// <summary>The motion with the poses before it.</summary>
    /// <param name="motion">Rest turns identity in the T-pose; its first frame faces about +Z.</param>
    /// <param name="sloppy">Nobody stands quite as asked: each bone is off by up to so many degrees about each axis.</param>
    public static Motion Before(Motion motion, int seed, float sloppy = 0)
    {
        var random = new Random(seed);
        var s = motion.Skeleton;
        var n = s.Count;
        var first = (int)Math.Round(Seconds * motion.FrameRate);
        var result = new Motion(s, motion.FrameRate, first + motion.FrameCount) { Warnings = motion.Warnings };
        var off = Enumerable.Range(0, n).Select(_ => Off(random, sloppy)).ToArray();
        var poses = new[] { Hanging, 0, Lowered }.Select(angle => Pose(s, angle, off)).ToArray();
        var root = motion.Translations[0] with { Y = s.RestPositions[0].Y };
        for (var f = 0; f < first; f++)
        {
            var seconds = f / motion.FrameRate;
            var k = Math.Min(2, (int)(seconds / (Held + Move)));
            var t = CubicSpline.MinimumJerk((float)Math.Clamp((seconds - (k * (Held + Move)) - Held) / Move, 0, 1));
            for (var j = 0; j < n; j++)
            {
                var next = k < 2 ? poses[k + 1][j] : motion.Rotations[j];
                result.Rotations[(f * n) + j] = Rotations.Slerp(poses[k][j], next, t);
                result.Translations[(f * n) + j] = motion.Translations[j];
            }

            result.Translations[f * n] = k < 2 ? root : Vector3.Lerp(root, motion.Translations[0], t);
            Sway(result, f, seconds);
        }

        motion.Rotations.CopyTo(result.Rotations, first * n);
        motion.Translations.CopyTo(result.Translations, first * n);
        return result;
    }

    private static Quaternion[] Pose(Skeleton s, float down, Quaternion[] off)
    {
        var pose = new Quaternion[s.Count];
        for (var j = 0; j < s.Count; j++)
        {
            var arm =
                s[j].Role == BodyRole.UpperArmL ? -down
                : s[j].Role == BodyRole.UpperArmR ? down
                : 0;
            pose[j] = Rotations.AboutAxis(2, arm * MathF.PI / 180) * off[j];
        }

        return pose;
    }

    private static Quaternion Off(Random random, float most)
    {
        Vector3 v = new(MarkerSimulator.Gauss(random), MarkerSimulator.Gauss(random), MarkerSimulator.Gauss(random));
        return Rotations.Exp(Vector3.Clamp(v / 2, -Vector3.One, Vector3.One) * most * MathF.PI / 180);
    }

    /// <summary>The trunk sways over standing legs, and breath moves the chest.</summary>
    private static void Sway(Motion motion, int frame, double seconds)
    {
        const float degree = MathF.PI / 180;
        var s = motion.Skeleton;
        var lean = new Vector3(
            0.4f * MathF.Sin((float)(0.31 * Math.Tau * seconds)),
            0.3f * MathF.Sin((float)(0.17 * Math.Tau * seconds)),
            0.35f * MathF.Sin((float)(0.23 * Math.Tau * seconds))
        );
        var turn = Rotations.Exp(lean * degree);
        var rotations = motion.RotationsAt(frame);
        foreach (var leg in new[] { BodyRole.ThighL, BodyRole.ThighR })
        {
            if (s.IndexOf(leg) is >= 0 and var j)
            {
                rotations[j] = Quaternion.Conjugate(turn) * rotations[j];
            }
        }

        rotations[0] *= turn;
        if (s.IndexOf(BodyRole.Chest) is >= 0 and var chest)
        {
            rotations[chest] *= Rotations.AboutAxis(0, 0.5f * degree * MathF.Sin((float)(0.25 * Math.Tau * seconds)));
        }
    }
}
