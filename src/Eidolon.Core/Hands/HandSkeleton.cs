using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Hands;

/// <summary>Puts fingers onto a body: thirty joints more behind those it has, so that every index of the body stays.</summary>
public static class HandSkeleton
{
    /// <summary>A body that has fingers.</summary>
    public static bool HasFingers(Skeleton skeleton) => skeleton.IndexOf(BodyRole.IndexL1) >= 0 || skeleton.IndexOf(BodyRole.IndexR1) >= 0;

    /// <summary>A body without them; joints before the fingers keep their index.</summary>
    /// <returns>The motion itself when it has none.</returns>
    public static Motion Without(Motion motion)
    {
        if (!HasFingers(motion.Skeleton))
        {
            return motion;
        }

        var s = motion.Skeleton;
        int[] kept = [.. Enumerable.Range(0, s.Count).Where(j => s[j].Role is not { } r || !BodyRoles.IsFinger(r))];
        var to = new int[s.Count];
        Array.Fill(to, -1);
        for (var k = 0; k < kept.Length; k++)
        {
            to[kept[k]] = k;
        }

        var body = new Skeleton(kept.Select(j => s[j] with { Parent = s[j].Parent < 0 ? -1 : to[s[j].Parent] }));
        var (turns, places) = (new Quaternion[motion.FrameCount * kept.Length], new Vector3[motion.FrameCount * kept.Length]);
        for (var f = 0; f < motion.FrameCount; f++)
        {
            for (var k = 0; k < kept.Length; k++)
            {
                turns[(f * kept.Length) + k] = motion.Rotations[(f * s.Count) + kept[k]];
                places[(f * kept.Length) + k] = motion.Translations[(f * s.Count) + kept[k]];
            }
        }

        return new Motion(body, motion.FrameRate, motion.FrameCount, turns, places)
        {
            FirstFrame = motion.FirstFrame,
            Morphs = motion.Morphs,
            Warnings = motion.Warnings,
        };
    }

    /// <summary>The body with the joints of its hands behind its own.</summary>
    public static Skeleton With(Skeleton body, HandShape left, HandShape right)
    {
        var joints = body.Joints.ToList();
        foreach (var shape in new[] { left, right })
        {
            var hand = body.IndexOf(shape.Side == 'L' ? BodyRole.HandL : BodyRole.HandR);
            for (var f = 0; f < HandShape.FingerCount; f++)
            {
                var c = shape.Fingers[f];
                Vector3[] offsets = [c.Base, c.Middle, c.Last];
                for (var k = 0; k < 3; k++)
                {
                    var role = HandShape.Joint(shape.Side, f, k + 1);
                    joints.Add(
                        new Joint(role.ToString(), k == 0 ? hand : joints.Count - 1, offsets[k])
                        {
                            Role = role,
                            EndSite = k == 2 ? c.Tip : null,
                        }
                    );
                }
            }
        }

        return new Skeleton(joints);
    }

    /// <summary>The motion of a body with the poses of its hands; what fingers it had before are replaced.</summary>
    public static Motion With(Motion motion, HandShape left, HandShape right, HandPoses poses)
    {
        var body = Without(motion);
        var s = With(body.Skeleton, left, right);
        var (n, m) = (body.Skeleton.Count, s.Count);
        var (turns, places) = (new Quaternion[body.FrameCount * m], new Vector3[body.FrameCount * m]);
        HandShape[] shapes = [left, right];
        for (var f = 0; f < body.FrameCount; f++)
        {
            body.RotationsAt(f).CopyTo(turns.AsSpan(f * m));
            body.TranslationsAt(f).CopyTo(places.AsSpan(f * m));
            for (var j = n; j < m; j++)
            {
                places[(f * m) + j] = s[j].Offset;
            }

            for (var (side, at) = (0, (f * m) + n); side < 2; side++)
            {
                for (var finger = 0; finger < HandShape.FingerCount; finger++, at += 3)
                {
                    (turns[at], turns[at + 1], turns[at + 2]) = shapes[side]
                        .Fingers[finger]
                        .Turns(poses.Poses[HandPoses.At(f, side, finger)]);
                }
            }
        }

        return new Motion(s, body.FrameRate, body.FrameCount, turns, places)
        {
            FirstFrame = body.FirstFrame,
            Morphs = body.Morphs,
            Warnings = body.Warnings,
        };
    }
}
