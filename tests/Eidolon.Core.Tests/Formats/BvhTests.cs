using System.Text;
using Eidolon.Core.Formats.Bvh;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Tests.Formats;

public sealed class BvhTests
{
    private const string Small = """
        HIERARCHY
        ROOT Hips
        {
          OFFSET 0 90 0
          CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation
          JOINT Spine
          {
            OFFSET 0 20 0
            CHANNELS 3 Yrotation Xrotation Zrotation
            End Site
            {
              OFFSET 0 30 0
            }
          }
        }
        MOTION
        Frames: 2
        Frame Time: 0.0083333
        1 95 2 0 0 90 0 90 0
        2 95 2 10 20 30 40 50 60

        """;

    private static Motion Read(string text, double scale = 0.01) => BvhReader.Read(Encoding.UTF8.GetBytes(text), "test.bvh", scale);

    [Fact]
    public void Reads_places_turns_and_rate_as_written()
    {
        var m = Read(Small);
        Assert.Equal(120, m.FrameRate);
        Assert.Equal(["Hips", "Spine"], m.Skeleton.Joints.Select(j => j.Name));
        Assert.Equal(0.3f, m.Skeleton[1].EndSite!.Value.Y, 5);
        var p = ForwardKinematics.WorldPositions(m);
        // The position channels replace the root's offset.
        Assert.Equal(0.95f, p[0].Y, 5);
        var turn = Rotations.AboutAxis(1, Math.PI / 2) * Rotations.AboutAxis(0, Math.PI / 2);
        var turns = new System.Numerics.Quaternion[4];
        ForwardKinematics.WorldPositions(m, turns);
        Assert.True(Rotations.Angle(turn, turns[1]) < 1e-4f);
    }

    [Fact]
    public void Line_ends_tabs_and_spaces_do_not_matter()
    {
        var crlf = Read(Small.ReplaceLineEndings("\r\n").Replace("  ", "\t", StringComparison.Ordinal));
        Assert.Equal(0, Samples.Worst(Read(Small), crlf));
    }

    [Fact]
    public void Unit_scale_scales_every_length() => Assert.Equal(95, Read(Small, 1).Translations[0].Y, 3);

    [Fact]
    public void Round_trip_moves_no_joint_by_a_hundredth_of_a_millimetre()
    {
        for (var seed = 0; seed < 12; seed++)
        {
            var motion = Samples.Random(seed);
            foreach (var order in new[] { "ZXY", "XYZ", "YZX" })
            {
                RotationOrder.TryParse(order, out var parsed);
                using var stream = new MemoryStream();
                BvhWriter.Write(stream, motion, 0.01, parsed);
                Assert.True(Samples.Worst(motion, BvhReader.Read(stream.ToArray(), "x.bvh")) < 0.01);
            }
        }
    }

    [Fact]
    public void A_root_is_where_its_channels_say_for_readers_that_add_its_offset_too()
    {
        using var stream = new MemoryStream();
        BvhWriter.Write(stream, Samples.Random(5));
        var text = System.Text.Encoding.UTF8.GetString(stream.ToArray());
        var root = text.IndexOf("ROOT", StringComparison.Ordinal);
        var offset = text[text.IndexOf("OFFSET", root, StringComparison.Ordinal)..].Split('\n')[0];
        Assert.All(offset.Split(' ', StringSplitOptions.RemoveEmptyEntries)[1..], n =>
            Assert.Equal(0, float.Parse(n, System.Globalization.CultureInfo.InvariantCulture))
        );
    }

    [Fact]
    public void More_rows_than_announced_are_told_and_not_read()
    {
        var m = Read(Small.TrimEnd() + "\n3 95 2 0 0 0 0 0 0\n");
        Assert.Equal(2, m.FrameCount);
        Assert.Contains(m.Warnings, w => w.Contains("1 more", StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("2 95 2 10 20 30 40 50 60", "2 95 2 10 20 30 40 50", "line 20")]
    [InlineData("2 95 2 10 20 30 40 50 60", "2 95 2 10 20 30 40 50 60 70", "line 20")]
    [InlineData("2 95 2 10 20 30 40 50 60", "2 95 2 nan 20 30 40 50 60", "line 20")]
    [InlineData("2 95 2 10 20 30 40 50 60", "", "ends after 1")]
    [InlineData("Frames: 2", "Frames: 2000000000", "too short")]
    [InlineData("Frames: 2", "Frames: -1", "frames are announced")]
    [InlineData("Frame Time: 0.0083333", "Frame Time: 0", "frame time")]
    [InlineData("JOINT Spine", "JOINT Hips", "two joints")]
    [InlineData("CHANNELS 3 Yrotation", "CHANNELS 3 Wrotation", "not a channel")]
    [InlineData("HIERARCHY", "HELLO", "HIERARCHY")]
    public void A_broken_file_says_where_and_why(string old, string replacement, string expected)
    {
        var e = Assert.Throws<InvalidInputException>(() => Read(Small.Replace(old, replacement, StringComparison.Ordinal)));
        Assert.Contains(expected, e.Message, StringComparison.Ordinal);
        Assert.DoesNotContain('\n', e.Message);
    }

    [Fact]
    public void An_implausible_size_is_named_never_corrected()
    {
        using var stream = new MemoryStream();
        var body = Anthropometry.Body(1.7f);
        BvhWriter.Write(
            stream,
            new Motion(
                body,
                30,
                1,
                [.. body.Joints.Select(_ => System.Numerics.Quaternion.Identity)],
                [.. body.Joints.Select(j => j.Offset)]
            ),
            0.01
        );
        var m = BvhReader.Read(stream.ToArray(), "big.bvh", 1);
        Assert.Contains(m.Warnings, w => w.Contains("0.01 m per unit", StringComparison.Ordinal));
        Assert.True(m.Skeleton[1].Offset.Length() > 1);
    }

    [Fact]
    public void Noise_is_refused_with_one_kind_of_error_or_read()
    {
        using var stream = new MemoryStream();
        BvhWriter.Write(stream, Samples.Random(3, 12, 40));
        foreach (var bytes in Samples.Broken(stream.ToArray(), 400, 1))
        {
            try
            {
                BvhReader.Read(bytes, "noise.bvh");
            }
            catch (InvalidInputException)
            {
                // The only failure there may be.
            }
        }
    }
}
