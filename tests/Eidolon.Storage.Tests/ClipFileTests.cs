using System.Numerics;
using Eidolon.Core;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Storage.Results;

namespace Eidolon.Storage.Tests;

/// <summary>A motion of the library as a file: what is written is read, and a broken one says so.</summary>
public sealed class ClipFileTests
{
    private static MotionValue Value()
    {
        var skeleton = new Skeleton([
            new Joint("hips", -1, Vector3.Zero) { Role = BodyRole.Pelvis },
            new Joint("chest", 0, Vector3.UnitY) { Role = BodyRole.Chest },
        ]);
        var motion = new Motion(skeleton, 60, 5);
        for (var k = 0; k < motion.Rotations.Length; k++)
        {
            motion.Rotations[k] = Quaternion.CreateFromAxisAngle(Vector3.UnitX, k * .1f);
            motion.Translations[k] = new Vector3(k, 1, -k);
        }

        return new MotionValue(motion) { Contacts = [new ContactEdit(ContactPoint.Heel, 'L', 1, 3, true)] };
    }

    [Fact]
    public void A_motion_comes_back_as_it_was()
    {
        var value = Value();
        var read = ClipFile.Read(ClipFile.Write(value), "clip");
        Assert.Equal(value.Motion.Rotations, read.Motion.Rotations);
        Assert.Equal(value.Motion.Translations, read.Motion.Translations);
        Assert.Equal(value.Contacts, read.Contacts);
        Assert.Equal(BodyRole.Chest, read.Motion.Skeleton[1].Role);
    }

    [Fact]
    public void A_file_that_is_cut_or_changed_is_told_by_the_clips_name()
    {
        var whole = ClipFile.Write(Value());
        for (var length = 0; length < whole.Length; length += 7)
        {
            Assert.Contains(
                "'Turn'",
                Assert.Throws<DamagedDataException>(() => ClipFile.Read(whole[..length], "Turn")).Message,
                StringComparison.Ordinal
            );
        }

        foreach (var wild in new[] { int.MaxValue, -1, int.MinValue })
        {
            var bytes = (byte[])whole.Clone();
            BitConverter.TryWriteBytes(bytes, wild);
            Assert.Throws<DamagedDataException>(() => ClipFile.Read(bytes, "Turn"));
        }
    }
}
