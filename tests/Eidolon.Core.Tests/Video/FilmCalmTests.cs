using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Video;

namespace Eidolon.Core.Tests.Video;

/// <summary>What trackers tremble by goes; what people do stays.</summary>
public sealed class FilmCalmTests
{
    private const int Frames = 120;

    /// <summary>An arm that swings once a second by 60 degrees and a body that walks, with a tremble of 3 degrees and 20 mm laid on.</summary>
    private static Motion Swing(float tremble)
    {
        var s = Anthropometry.Body(1.7f);
        var motion = new Motion(s, 30, Frames);
        var arm = s.IndexOf(BodyRole.UpperArmL);
        for (var f = 0; f < Frames; f++)
        {
            var shake = tremble * (f % 2 == 0 ? 1 : -1);
            for (var j = 0; j < s.Count; j++)
            {
                motion.Rotations[(f * s.Count) + j] = Quaternion.Identity;
                motion.Translations[(f * s.Count) + j] = s[j].Offset;
            }

            var swing = (60 * MathF.Sin(f / 30f * MathF.Tau)) + (3 * shake);
            // Either sign is the same turn.
            motion.Rotations[(f * s.Count) + arm] = Rotations.AboutAxis(0, swing * MathF.PI / 180) * (f % 3 == 0 ? -1 : 1);
            motion.Translations[f * s.Count] += new Vector3(shake * 0.02f, 0, f * 0.04f);
        }

        return motion;
    }

    [Fact]
    public void A_tremble_goes_and_a_swing_stays()
    {
        var (clean, found) = (Swing(0), Swing(1));
        FilmCalm.Apply(found);
        var (n, arm) = (clean.Skeleton.Count, clean.Skeleton.IndexOf(BodyRole.UpperArmL));
        for (var f = 12; f < Frames - 12; f++)
        {
            var off = Rotations.Angle(clean.Rotations[(f * n) + arm], found.Rotations[(f * n) + arm]) * 180 / Math.PI;
            Assert.InRange(off, 0, 1);
            Assert.InRange(Vector3.Distance(clean.Translations[f * n], found.Translations[f * n]), 0, 0.003f);
            Assert.Equal(1, found.Rotations[(f * n) + arm].Length(), 4);
        }
    }

    [Fact]
    public void A_few_frames_and_a_slow_film_stay_as_they_are()
    {
        foreach (
            var motion in new[]
            {
                MotionEdits.Range(Swing(1), 0, 11),
                new Motion(Swing(1).Skeleton, 10, Frames, Swing(1).Rotations, Swing(1).Translations),
            }
        )
        {
            var before = motion.Rotations.ToArray();
            FilmCalm.Apply(motion);
            Assert.Equal(before, motion.Rotations);
        }
    }
}
