using System.Numerics;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Skeletons;

/// <summary>Whole-motion edits that only export and import use: ranges, rates, scale, axes. Each gives a new motion.</summary>
public static class MotionEdits
{
    /// <summary>The same frames played at another rate: for a file that tells its rate wrong.</summary>
    public static Motion AtRate(Motion motion, double rate) =>
        new(motion.Skeleton, rate, motion.FrameCount, motion.Rotations, motion.Translations)
        {
            FirstFrame = motion.FirstFrame,
            Morphs = motion.Morphs,
            Warnings = motion.Warnings,
        };

    /// <summary>Frames <paramref name="start"/> up to, not including, <paramref name="end"/>, every <paramref name="step"/>th.</summary>
    public static Motion Range(Motion motion, int start, int end, int step = 1)
    {
        var count = (end - start + step - 1) / step;
        var n = motion.Skeleton.Count;
        var result = new Motion(motion.Skeleton, motion.FrameRate / step, count)
        {
            FirstFrame = motion.FirstFrame + start,
            Warnings = motion.Warnings,
            Morphs = motion.Morphs.ToDictionary(
                m => m.Key,
                m => Enumerable.Range(0, count).Select(i => m.Value[start + (i * step)]).ToArray()
            ),
        };
        for (var i = 0; i < count; i++)
        {
            motion.RotationsAt(start + (i * step)).CopyTo(result.Rotations.AsSpan(i * n, n));
            motion.TranslationsAt(start + (i * step)).CopyTo(result.Translations.AsSpan(i * n, n));
        }

        return result;
    }

    /// <summary>Resamples to another rate: turns by slerp, places linearly. The last output frame is the nearest whole one.</summary>
    public static Motion Resample(Motion motion, double rate)
    {
        if (Math.Abs(rate - motion.FrameRate) < 1e-9)
        {
            return motion;
        }

        var step = motion.FrameRate / rate;
        SampleBudget.Check($"the motion at {rate:0.###} frames a second", motion.FrameCount / step, motion.Skeleton.Count);
        return At(motion, f => f * step, rate, WholeFrames(motion.FrameCount, motion.FrameRate, rate));
    }

    /// <summary>Played faster or slower at the same rate: turns by slerp, places linearly; what stands keeps standing.</summary>
    /// <param name="speed">2 takes half as long.</param>
    public static Motion Retime(Motion motion, double speed)
    {
        SampleBudget.Check($"the motion at {speed:0.###} times its speed", motion.FrameCount / speed, motion.Skeleton.Count);
        return Math.Abs(speed - 1) < 1e-9 ? motion : At(motion, f => f * speed, motion.FrameRate, WholeFrames(motion.FrameCount, speed, 1));
    }

    /// <summary>The motion at other moments: turns by slerp, places linearly; before its first frame and after its last one it holds still.</summary>
    /// <param name="at">The frame of the motion that a frame of the result shows, not whole.</param>
    public static Motion At(Motion motion, Func<int, double> at, double rate, int count)
    {
        var n = motion.Skeleton.Count;
        var result = new Motion(motion.Skeleton, rate, count)
        {
            Warnings = motion.Warnings,
            Morphs = motion.Morphs.ToDictionary(m => m.Key, m => CurveAt(m.Value, at, count)),
        };
        for (var i = 0; i < count; i++)
        {
            var (f, g, t) = Between(at(i), motion.FrameCount);
            for (var j = 0; j < n; j++)
            {
                result.Rotations[(i * n) + j] =
                    t < 1e-6f
                        ? motion.Rotations[(f * n) + j]
                        : Quaternion.Normalize(Rotations.Slerp(motion.Rotations[(f * n) + j], motion.Rotations[(g * n) + j], t));
                result.Translations[(i * n) + j] = Vector3.Lerp(motion.Translations[(f * n) + j], motion.Translations[(g * n) + j], t);
            }
        }

        return result;
    }

    /// <summary>Frames at another rate: the last one is the nearest to the end, on a tie the earlier, so that nothing is made up.</summary>
    public static int WholeFrames(int frames, double from, double to) => (int)Math.Ceiling(((frames - 1) / from * to) - 0.5 - 1e-9) + 1;

    /// <summary>Multiplies every length.</summary>
    public static Motion Scale(Motion motion, float scale)
    {
        var skeleton = new Skeleton(motion.Skeleton.Joints.Select(j => j with { Offset = j.Offset * scale, EndSite = j.EndSite * scale }));
        return new Motion(
            skeleton,
            motion.FrameRate,
            motion.FrameCount,
            motion.Rotations,
            Array.ConvertAll(motion.Translations, t => t * scale)
        )
        {
            FirstFrame = motion.FirstFrame,
            Morphs = motion.Morphs,
            Warnings = motion.Warnings,
        };
    }

    /// <summary>Turns the whole scene about the origin, joint frames kept (roots take the turn).</summary>
    public static Motion Turn(Motion motion, Quaternion turn)
    {
        var skeleton = new Skeleton(
            motion.Skeleton.Joints.Select(j =>
                j.Parent >= 0
                    ? j
                    : j with
                    {
                        Offset = Vector3.Transform(j.Offset, turn),
                        RestRotation = Quaternion.Normalize(turn * j.RestRotation),
                    }
            )
        );
        var result = motion.Copy().On(skeleton);
        for (var f = 0; f < motion.FrameCount; f++)
        {
            var r = result.RotationsAt(f);
            var t = result.TranslationsAt(f);
            for (var j = 0; j < r.Length; j++)
            {
                if (skeleton.Parents[j] < 0)
                {
                    r[j] = Quaternion.Normalize(turn * r[j]);
                    t[j] = Vector3.Transform(t[j], turn);
                }
            }
        }

        return result;
    }

    /// <summary>A motion that was told in left-handed axes, in right-handed ones: X is turned round everywhere, names stay where they are.</summary>
    public static Motion OtherHand(Motion motion)
    {
        static Vector3 Place(Vector3 v) => v with { X = -v.X };
        static Quaternion Turned(Quaternion q) => new(q.X, -q.Y, -q.Z, q.W);
        var skeleton = new Skeleton(
            motion.Skeleton.Joints.Select(j =>
                j with
                {
                    Offset = Place(j.Offset),
                    RestRotation = Turned(j.RestRotation),
                    EndSite = j.EndSite is { } end ? Place(end) : null,
                }
            )
        );
        var result = motion.Copy().On(skeleton);
        for (var k = 0; k < result.Rotations.Length; k++)
        {
            result.Rotations[k] = Turned(result.Rotations[k]);
            result.Translations[k] = Place(result.Translations[k]);
        }

        return result;
    }

    /// <summary>Only roots move; every other joint is set to its offset.</summary>
    public static Motion RootTranslationOnly(Motion motion)
    {
        var result = motion.Copy();
        for (var f = 0; f < motion.FrameCount; f++)
        {
            var t = result.TranslationsAt(f);
            for (var j = 0; j < t.Length; j++)
            {
                if (motion.Skeleton.Parents[j] >= 0)
                {
                    t[j] = motion.Skeleton[j].Offset;
                }
            }
        }

        return result;
    }

    /// <summary>Takes the travel over the floor out of the root; height and turn stay.</summary>
    public static Motion InPlace(Motion motion)
    {
        var result = motion.Copy();
        for (var f = 0; f < motion.FrameCount; f++)
        {
            var t = result.TranslationsAt(f);
            for (var j = 0; j < t.Length; j++)
            {
                if (motion.Skeleton.Parents[j] < 0)
                {
                    var first = motion.Translations[j];
                    t[j] = new Vector3(first.X, t[j].Y, first.Z);
                }
            }
        }

        return result;
    }

    /// <summary>Puts the rest pose in front as an extra first frame.</summary>
    public static Motion WithRestFrame(Motion motion)
    {
        var n = motion.Skeleton.Count;
        var result = new Motion(motion.Skeleton, motion.FrameRate, motion.FrameCount + 1)
        {
            FirstFrame = motion.FirstFrame,
            Warnings = motion.Warnings,
        };
        for (var j = 0; j < n; j++)
        {
            result.Rotations[j] = motion.Skeleton[j].RestRotation;
            result.Translations[j] = motion.Skeleton[j].Offset;
        }

        motion.Rotations.CopyTo(result.Rotations, n);
        motion.Translations.CopyTo(result.Translations, n);
        return result;
    }

    /// <summary>
    /// Expresses every joint in a frame that is level with the world at rest, so that "all angles zero" is the rest pose.
    /// World places stay; world turns become turns away from rest.
    /// </summary>
    public static Motion LevelRest(Motion motion)
    {
        var s = motion.Skeleton;
        if (s.Joints.All(j => Math.Abs(j.RestRotation.W) > 0.9999999f))
        {
            return motion;
        }

        var parentRest = new Quaternion[s.Count];
        for (var j = 0; j < s.Count; j++)
        {
            parentRest[j] = s.Parents[j] < 0 ? Quaternion.Identity : s.RestRotations[s.Parents[j]];
        }

        var skeleton = new Skeleton(
            s.Joints.Select(
                (j, i) =>
                    j with
                    {
                        Offset = Vector3.Transform(j.Offset, parentRest[i]),
                        RestRotation = Quaternion.Identity,
                        EndSite = j.EndSite is { } e ? Vector3.Transform(e, s.RestRotations[i]) : null,
                    }
            )
        );
        var result = motion.Copy().On(skeleton);
        for (var k = 0; k < result.Rotations.Length; k++)
        {
            var j = k % s.Count;
            result.Rotations[k] = Quaternion.Normalize(parentRest[j] * motion.Rotations[k] * Quaternion.Conjugate(s.RestRotations[j]));
            result.Translations[k] = Vector3.Transform(motion.Translations[k], parentRest[j]);
        }

        return result;
    }

    private static float[] CurveAt(float[] values, Func<int, double> at, int count)
    {
        var result = new float[count];
        for (var i = 0; i < count; i++)
        {
            var (f, g, t) = Between(at(i), values.Length);
            result[i] = values[f] + (t * (values[g] - values[f]));
        }

        return result;
    }

    /// <summary>The two frames a moment lies between, and how far it is towards the second.</summary>
    private static (int Before, int After, float Share) Between(double at, int count)
    {
        at = Math.Clamp(at, 0, count - 1);
        var f = (int)at;
        return (f, Math.Min(f + 1, count - 1), (float)(at - f));
    }
}
