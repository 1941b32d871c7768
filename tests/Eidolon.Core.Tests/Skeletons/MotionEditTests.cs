using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Tests.Skeletons;

public sealed class MotionEditTests
{
    private static Motion WithFace(int seed, int joints, int frames)
    {
        var plain = Samples.Random(seed, joints, frames);
        return new Motion(plain.Skeleton, plain.FrameRate, plain.FrameCount, plain.Rotations, plain.Translations)
        {
            FirstFrame = 12,
            Warnings = ["odd"],
            Morphs = new Dictionary<string, float[]> { ["jawOpen"] = [.. Enumerable.Range(0, frames).Select(f => f / 10f)] },
        };
    }

    [Fact]
    public void Another_rate_plays_the_same_frames()
    {
        var motion = WithFace(3, 4, 20);
        var slow = MotionEdits.AtRate(motion, 24);
        Assert.Equal((24, 20, 12), (slow.FrameRate, slow.FrameCount, slow.FirstFrame));
        Assert.Same(motion.Rotations, slow.Rotations);
        Assert.Equal(motion.Morphs, slow.Morphs);
        Assert.Equal(["odd"], slow.Warnings);
        Assert.Equal(20 / 24.0, slow.DurationSeconds, 12);
    }

    [Fact]
    public void Scaling_multiplies_every_length_and_no_turn()
    {
        var motion = Samples.Random(5, 6, 9);
        var half = MotionEdits.Scale(motion, 0.5f);
        var (a, b) = (ForwardKinematics.WorldPositions(motion), ForwardKinematics.WorldPositions(half));
        Assert.All(Enumerable.Range(0, a.Length), k => Assert.True(((a[k] * 0.5f) - b[k]).Length() < 1e-5f));
        Assert.Equal(motion.Rotations, half.Rotations);
        foreach (var (x, y) in motion.Skeleton.Joints.Zip(half.Skeleton.Joints))
        {
            Assert.Equal(x.Offset * 0.5f, y.Offset);
            Assert.Equal(x.EndSite is { } e ? e * 0.5f : null, y.EndSite);
        }
    }

    [Fact]
    public void The_other_hand_is_a_mirror_image_and_its_own_way_back()
    {
        var motion = WithFace(8, 7, 5);
        var mirrored = MotionEdits.OtherHand(motion);
        var (a, b) = (ForwardKinematics.WorldPositions(motion), ForwardKinematics.WorldPositions(mirrored));
        Assert.All(Enumerable.Range(0, a.Length), k => Assert.True((a[k] with { X = -a[k].X } - b[k]).Length() < 1e-4f));
        Assert.True(Samples.Worst(motion, MotionEdits.OtherHand(mirrored)) < 1e-3);
        Assert.Equal(motion.Skeleton.Joints.Select(j => j.Name), mirrored.Skeleton.Joints.Select(j => j.Name));
        foreach (var (rest, there) in motion.Skeleton.RestPositions.Zip(mirrored.Skeleton.RestPositions))
        {
            Assert.True((rest with { X = -rest.X } - there).Length() < 1e-4f);
        }
    }

    [Fact]
    public void Only_roots_travel_when_asked_for()
    {
        var motion = Samples.Random(4, 6, 8);
        for (var k = 0; k < motion.Translations.Length; k++)
        {
            motion.Translations[k] += new Vector3(0.01f * k, 0, 0);
        }

        var still = MotionEdits.RootTranslationOnly(motion);
        for (var f = 0; f < motion.FrameCount; f++)
        {
            for (var j = 0; j < motion.Skeleton.Count; j++)
            {
                var expected = motion.Skeleton.Parents[j] < 0 ? motion.TranslationsAt(f)[j] : motion.Skeleton[j].Offset;
                Assert.Equal(expected, still.TranslationsAt(f)[j]);
                Assert.Equal(motion.RotationsAt(f)[j], still.RotationsAt(f)[j]);
            }
        }
    }

    [Fact]
    public void A_rest_frame_stands_before_all_others()
    {
        var motion = Samples.Random(6, 5, 4);
        var with = MotionEdits.WithRestFrame(motion);
        Assert.Equal(5, with.FrameCount);
        for (var j = 0; j < motion.Skeleton.Count; j++)
        {
            Assert.Equal(motion.Skeleton[j].RestRotation, with.RotationsAt(0)[j]);
            Assert.Equal(motion.Skeleton[j].Offset, with.TranslationsAt(0)[j]);
            Assert.Equal(motion.RotationsAt(3)[j], with.RotationsAt(4)[j]);
            Assert.Equal(motion.TranslationsAt(0)[j], with.TranslationsAt(1)[j]);
        }
    }

    [Theory]
    [InlineData(60)]
    [InlineData(48)]
    [InlineData(240)]
    public void Resampled_places_turns_and_faces_lie_between_the_frames_beside_them(double rate)
    {
        var motion = WithFace(9, 3, 61);
        var other = MotionEdits.Resample(motion, rate);
        Assert.Equal(rate, other.FrameRate);
        Assert.Equal(MotionEdits.WholeFrames(61, motion.FrameRate, rate), other.FrameCount);
        for (var i = 0; i < other.FrameCount; i++)
        {
            var at = Math.Min(i / rate * motion.FrameRate, 60);
            int f = (int)Math.Min(at, 60),
                g = Math.Min(f + 1, 60);
            var t = (float)(at - f);
            Assert.Equal(at / 10, other.Morphs["jawOpen"][i], 1e-4);
            for (var j = 0; j < 3; j++)
            {
                var place = Vector3.Lerp(motion.TranslationsAt(f)[j], motion.TranslationsAt(g)[j], t);
                Assert.True((place - other.TranslationsAt(i)[j]).Length() < 1e-5f);
                var apart = Rotations.Angle(motion.RotationsAt(f)[j], motion.RotationsAt(g)[j]);
                Assert.Equal(apart * t, Rotations.Angle(motion.RotationsAt(f)[j], other.RotationsAt(i)[j]), 2e-3f);
            }
        }

        Assert.Same(motion, MotionEdits.Resample(motion, motion.FrameRate));
    }

    [Theory]
    [InlineData(1, 120, 30, 1)]
    [InlineData(5, 120, 30, 2)]
    [InlineData(2, 120, 240, 3)]
    // The last second frame lies half-way between two: the earlier one is taken, nothing is made up.
    [InlineData(3, 120, 30, 1)]
    [InlineData(4, 120, 30, 2)]
    public void Frames_at_another_rate_end_on_the_nearest(int frames, double from, double to, int count) =>
        Assert.Equal(count, MotionEdits.WholeFrames(frames, from, to));

    [Fact]
    public void A_motion_refuses_rates_and_samples_that_do_not_fit()
    {
        var s = Samples.Random(1, 3, 2).Skeleton;
        Assert.Throws<ArgumentOutOfRangeException>(() => new Motion(s, 0, 2));
        Assert.Throws<ArgumentOutOfRangeException>(() => new Motion(s, double.NaN, 2));
        Assert.Throws<ArgumentOutOfRangeException>(() => new Motion(s, double.PositiveInfinity, 2));
        Assert.Throws<ArgumentException>(() => new Motion(s, 30, 2, new Quaternion[5], new Vector3[6]));
        Assert.Throws<ArgumentException>(() => new Motion(s, 30, 2, new Quaternion[6], new Vector3[5]));
        Assert.Throws<OverflowException>(() => new Motion(s, 30, int.MaxValue));
        Assert.Throws<ArgumentException>(() => new Motion(s, 30, 2).On(Samples.Random(1, 4, 2).Skeleton));
    }

    [Fact]
    public void A_copy_has_samples_of_its_own_and_another_skeleton_has_the_same()
    {
        var motion = WithFace(2, 3, 4);
        var copy = motion.Copy();
        Assert.NotSame(motion.Rotations, copy.Rotations);
        Assert.NotSame(motion.Translations, copy.Translations);
        Assert.Equal(motion.Rotations, copy.Rotations);
        Assert.Equal((12, motion.Morphs, motion.Warnings), (copy.FirstFrame, copy.Morphs, copy.Warnings));
        var on = motion.On(Samples.Random(7, 3, 1).Skeleton);
        Assert.Same(motion.Rotations, on.Rotations);
        Assert.Equal((12, motion.Morphs, motion.Warnings), (on.FirstFrame, on.Morphs, on.Warnings));
    }

    [Fact]
    public void Local_turns_come_back_from_world_ones()
    {
        var motion = Samples.Random(11, 8, 3);
        var world = new Quaternion[3 * 8];
        ForwardKinematics.WorldPositions(motion, world);
        var local = new Quaternion[8];
        for (var f = 0; f < 3; f++)
        {
            ForwardKinematics.Local(motion.Skeleton, world.AsSpan(f * 8, 8), local);
            Assert.All(Enumerable.Range(0, 8), j => Assert.True(Rotations.Angle(local[j], motion.RotationsAt(f)[j]) < 1e-3f));
        }
    }
}
