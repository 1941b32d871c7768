using System.Buffers.Binary;
using System.Numerics;
using System.Text;
using Eidolon.Core.Formats.Bvh;
using Eidolon.Core.Formats.C3d;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Inertial;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Tests.Formats;

/// <summary>Word for word what is said of files that are wrong, and where: a person must find the place.</summary>
public sealed class FileWordsTests
{
    private static void Says(string said, Action read) => Assert.Equal("x: " + said, Assert.Throws<InvalidInputException>(read).Message);

    // ---------------------------------------------------------------- BVH

    private const string Small = """
        HIERARCHY
        ROOT Hips
        {
          OFFSET 0 90 0
          CHANNELS 3 Zrotation Xrotation Yrotation
          End Site
          {
            OFFSET 0 30 0
          }
        }
        MOTION
        Frames: 2
        Frame Time: 0.01
        1 2 3
        4 5 6

        """;

    private static Motion Bvh(string text) => BvhReader.Read(Encoding.UTF8.GetBytes(text), "x");

    [Theory]
    [InlineData("4 5 6", "4 5", "line 15: frame 1 has 2 numbers, 3 are needed")]
    [InlineData("4 5 6", "4 5 6 7", "line 15: frame 1 has more than 3 numbers")]
    [InlineData("4 5 6", "4 x 6", "line 15: a number is expected, found 'x'")]
    [InlineData("4 5 6", "4 5 6\n7 8", "line 16: a row beyond the announced frames has 2 numbers, 3 are needed")]
    [InlineData("Frames: 2", "Frames: 3", "line 16: 3 frames are announced, the file ends after 2")]
    [InlineData("Frames: 2", "Frames: 0", "line 12: 0 frames are announced; at least one whole frame is needed")]
    [InlineData("Frames: 2", "Frames: 1.5", "line 12: 1.5 frames are announced; at least one whole frame is needed")]
    [InlineData("Frames: 2", "Frames: two", "line 12: the number of frames is expected, found 'two'")]
    [InlineData("Frames: 2", "Frames: 200", "line 13: 200 frames of 3 numbers are announced, the file is too short for that")]
    [InlineData("Frame Time: 0.01", "Frame Time: -1", "line 13: a frame time of -1 s is none that a recording has")]
    [InlineData("Frame Time:", "Frame Rate:", "line 13: 'Time:' is expected, found 'Rate:'")]
    [InlineData("MOTION", "", "line 12: 'Frames:' is not known here")]
    [InlineData("  OFFSET 0 90 0", "ROOT Other", "line 4: a ROOT stands inside another joint")]
    [InlineData("ROOT Hips", "JOINT Hips", "line 2: a JOINT stands outside a ROOT")]
    [InlineData("ROOT Hips", "ROOT Hips {", "line 2: '{' must stand on a line of its own after the joint's name")]
    [InlineData("ROOT Hips", "ROOT", "line 2: a joint has no readable name")]
    [InlineData("HIERARCHY", "HIERARCHY OFFSET 1 1 1", "line 1: an OFFSET stands outside a joint")]
    [InlineData("OFFSET 0 90 0", "OFFSET 0 high 0", "line 4: an offset is expected, found 'high'")]
    [InlineData("    OFFSET 0 30 0", "CHANNELS 1 Xrotation", "line 8: CHANNELS are out of place")]
    [InlineData("    OFFSET 0 30 0", "End Site", "line 8: an End Site is out of place")]
    [InlineData("MOTION", "}", "line 11: '}' without a joint")]
    [InlineData("End Site", "End Place", "line 6: 'Site' is expected, found 'Place'")]
    [InlineData("CHANNELS 3", "CHANNELS 7", "line 5: a joint cannot have 7 channels")]
    [InlineData("CHANNELS 3", "CHANNELS 2.5", "line 5: a joint cannot have 2.5 channels")]
    [InlineData("CHANNELS 3", "CHANNELS many", "line 5: the number of channels is expected, found 'many'")]
    [InlineData("Xrotation", "Xturn", "line 5: 'Xturn' is not a channel")]
    [InlineData("Xrotation", "Zrotation", "line 5: channel Zrotation is listed twice")]
    public void Of_a_motion(string old, string now, string said) =>
        Says(said, () => Bvh(Small.Replace(old, now, StringComparison.Ordinal)));

    [Fact]
    public void A_motion_that_ends_in_its_hierarchy_says_so() =>
        Says("line 10: the file ends inside the hierarchy", () => Bvh(Small[..Small.IndexOf("}\nMOTION", StringComparison.Ordinal)]));

    [Fact]
    public void A_file_that_is_exactly_as_long_as_it_claims_is_read()
    {
        // One digit, one separator: nothing shorter can be, and this is it.
        var head = "HIERARCHY\nROOT A\n{\nOFFSET 0 0 0\nCHANNELS 1 Xrotation\n}\nMOTION\nFrames: 60\nFrame Time: 0.01\n";
        var rows = string.Concat(Enumerable.Repeat("1\n", 60));
        Assert.Equal(60, Bvh(head + rows).FrameCount);
        // Much more than the file could hold is not even begun.
        var claim =
            $"HIERARCHY\nROOT A\n{{\nOFFSET 0 0 0\nCHANNELS 1 Xrotation\n}}\nMOTION\nFrames: {(head.Length + 121) / 2}\nFrame Time: 0.01\n";
        Assert.Contains(
            "the file ends after 60",
            Assert.Throws<InvalidInputException>(() => Bvh(claim + rows)).Message,
            StringComparison.Ordinal
        );
        claim = claim.Replace($"Frames: {(head.Length + 121) / 2}", $"Frames: {((head.Length + 121) / 2) + 3}", StringComparison.Ordinal);
        Assert.Contains("too short", Assert.Throws<InvalidInputException>(() => Bvh(claim + rows)).Message, StringComparison.Ordinal);
        // A skeleton without a channel has empty rows, of which none can be counted.
        Assert.Contains(
            "1000 frames of 0 numbers",
            Assert
                .Throws<InvalidInputException>(() =>
                    Bvh("HIERARCHY\nROOT A\n{\nOFFSET 0 0 0\nCHANNELS 0\n}\nMOTION\nFrames: 1000\nFrame Time: 0.01\n")
                )
                .Message,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void A_long_motion_is_written_in_pieces_and_whole()
    {
        var body = Anthropometry.Body(1.7f);
        var motion = Samples.Random(4, body.Count, 9000);
        using var stream = new Pieces();
        BvhWriter.Write(stream, motion);
        Assert.True(stream.Length > 3 << 19);
        // Never more at once than a piece and a row.
        Assert.InRange(stream.Largest, 1 << 18, (1 << 19) + 40_000);
        Assert.Equal(9000, BvhReader.Read(stream.ToArray(), "x").FrameCount);
    }

    private sealed class Pieces : MemoryStream
    {
        public int Largest { get; private set; }

        public override void Write(ReadOnlySpan<byte> buffer)
        {
            Largest = Math.Max(Largest, buffer.Length);
            base.Write(buffer);
        }
    }

    // ---------------------------------------------------------------- C3D

    private static MarkerTake Markers(int count, int frames, int first = 1)
    {
        var take = new MarkerTake([.. Enumerable.Range(0, count).Select(i => $"M{i}")], 100, frames) { FirstFrame = first };
        for (var k = 0; k < take.Positions.Length; k++)
        {
            take.Positions[k] = new Vector3(k % 7, 1, k % 3) / 10;
        }

        return take;
    }

    private static byte[] C3d(MarkerTake take)
    {
        using var stream = new MemoryStream();
        C3dWriter.Write(stream, new C3dDocument(take));
        return stream.ToArray();
    }

    private static void Word(byte[] bytes, int at, int value) => BinaryPrimitives.WriteInt16LittleEndian(bytes.AsSpan(at), (short)value);

    [Theory]
    [InlineData(1, 0x51, "byte 1: the C3D mark 0x50 is missing")]
    [InlineData(0, 200, "byte 0: the parameters are said to start in block 200, which is not there")]
    [InlineData(2, 9, "POINT:USED: says 3 points, the header says 9")]
    [InlineData(6, 60, "byte 6: frames 60 to 10 are announced; at least one is needed")]
    [InlineData(16, 77, "byte 16: the data are said to start in block 77, which is not there")]
    public void Of_markers_in_blocks(int at, int value, string said)
    {
        var bytes = C3d(Markers(3, 10));
        bytes[at] = (byte)value;
        Says(said, () => C3dReader.Read(bytes, "x"));
    }

    [Fact]
    public void Of_markers_in_blocks_that_end_too_early()
    {
        var bytes = C3d(Markers(3, 100));
        var start = (BinaryPrimitives.ReadInt16LittleEndian(bytes.AsSpan(16)) - 1) * 512;
        Says("byte 1: too short for a C3D file (two blocks of 512 bytes are the least)", () => C3dReader.Read(bytes[..600], "x"));
        Says($"byte {start + 1000}: 100 frames of 48 bytes are announced, the file ends in frame 20", () =>
            C3dReader.Read(bytes[..(start + 1000)], "x")
        );
        bytes[start - 512 >= 0 ? 512 + 3 : 0] = 80;
        Says("byte 515: processor type 80 is not known (84, 85 or 86)", () => C3dReader.Read(bytes, "x"));
    }

    [Fact]
    public void A_header_that_leaves_something_out_is_filled_from_the_parameters()
    {
        var take = Markers(3, 10);
        var bytes = C3d(take);
        // No scale, no rate and no start of the data in the header.
        bytes.AsSpan(12, 4).Clear();
        bytes.AsSpan(20, 4).Clear();
        Word(bytes, 16, 0);
        var back = C3dReader.Read(bytes, "x").Take;
        Assert.Equal((100.0, 10, 1), (back.FrameRate, back.FrameCount, back.FirstFrame));
        Assert.True((back.Positions[5] - take.Positions[5]).Length() < 1e-5f);
    }

    [Theory]
    [InlineData(1, 70_000)]
    [InlineData(66_000, 40)]
    [InlineData(65_530, 6)]
    [InlineData(65_530, 7)]
    public void Frames_beyond_what_the_header_holds_come_back(int first, int frames)
    {
        var back = C3dReader.Read(C3d(Markers(1, frames, first)), "x").Take;
        Assert.Equal((first, frames), (back.FirstFrame, back.FrameCount));
    }

    [Fact]
    public void A_long_take_is_read_by_readers_of_either_kind_of_parameter()
    {
        var bytes = C3d(Markers(1, 70_000));
        // Readers that do not know one of the two ways of saying it find the other.
        foreach (var name in new[] { "LONG_FRAMES", "ACTUAL_START_FIELD" })
        {
            var at = bytes.AsSpan().IndexOf(Encoding.ASCII.GetBytes(name));
            Assert.True(at > 0, name);
            var without = (byte[])bytes.Clone();
            without[at] = (byte)'X';
            Assert.Equal(70_000, C3dReader.Read(without, "x").Take.FrameCount);
        }
    }

    [Fact]
    public void Markers_without_a_label_are_numbered_and_it_is_said()
    {
        var bytes = C3d(Markers(3, 10));
        bytes[bytes.AsSpan().IndexOf("LABELS"u8)] = (byte)'X';
        var take = C3dReader.Read(bytes, "x").Take;
        Assert.Equal(["*1", "*2", "*3"], take.Names);
        Assert.Contains("3 points but only 0 labels; the rest are numbered", take.Warnings);
    }

    // ---------------------------------------------------------------- tables

    [Theory]
    [InlineData("frame,time,A.x,A.y\n", "line 1: a header 'frame,time,Name.x,Name.y,Name.z,…' is expected")]
    [InlineData("frame,time,A.x,A.y,B.z\n", "line 1: a header 'frame,time,Name.x,Name.y,Name.z,…' is expected")]
    [InlineData("frame,time,A.x,A.y,A.z,A.x,A.y,A.z\n", "line 1: two points have the same name")]
    [InlineData("frame,time,A.x,A.y,A.z\n", "line 1: there are no rows")]
    [InlineData("frame,time,A.x,A.y,A.z\n0,0,1,2\n", "line 2: 4 columns, 5 are needed")]
    [InlineData("frame,time,A.x,A.y,A.z\n0,0,1,2,3,4\n", "line 2: more than 5 columns")]
    [InlineData("frame,time,A.x,A.y,A.z\n0,0,1,2,3\n1,soon,1,2,3\n", "line 3: the time is not a number")]
    [InlineData("frame,time,A.x,A.y,A.z\n0,0,1,2,three\n", "line 2: 'three' is not a number")]
    [InlineData("# markers, units=m, units=cm\nframe,time,A.x,A.y,A.z\n", "line 1: 'units' is said twice")]
    [InlineData("# markers, upAxis=W\nframe,time,A.x,A.y,A.z\n", "line 1: 'W' is no up axis (X, Y or Z)")]
    [InlineData("# markers, units=ell\nframe,time,A.x,A.y,A.z\n", "line 1: the frame rate or the unit cannot be read")]
    [InlineData("# markers, frameRate=-5\nframe,time,A.x,A.y,A.z\n", "line 1: the frame rate or the unit cannot be read")]
    public void Of_a_table_of_markers(string text, string said) => Says(said, () => CsvMarkers.Read(Encoding.UTF8.GetBytes(text), "x"));

    [Fact]
    public void A_table_of_markers_without_frame_and_time_counts_its_rows()
    {
        var take = CsvMarkers.Read(
            "# markers, frameRate=50, firstFrame=7\nA.x,A.y,A.z,B.x,B.y,B.z\n1,2,3,4,5,6\n\n7,8,9,,5,6\n"u8.ToArray(),
            "x"
        );
        Assert.Equal((2, 50.0, 7), (take.FrameCount, take.FrameRate, take.FirstFrame));
        Assert.Equal(new Vector3(7, 8, 9), take[1, 0]);
        Assert.Equal(new Vector3(4, 5, 6), take[0, 1]);
        Assert.False(MarkerTake.Seen(take[1, 1]));
    }

    private const string Dots = "# centroids, frameRate=50, cameras=2, frames=3\nframe,camera,u,v\n";

    [Theory]
    [InlineData("# dots\n", "line 1: '# centroids, frameRate=120, cameras=12, frames=7200' is expected (at most 256 cameras)")]
    [InlineData(
        "# centroids, frameRate=50, cameras=257, frames=3\n",
        "line 1: '# centroids, frameRate=120, cameras=12, frames=7200' is expected (at most 256 cameras)"
    )]
    [InlineData(
        "# centroids, frameRate=50, cameras=2, frames=0\n",
        "line 1: '# centroids, frameRate=120, cameras=12, frames=7200' is expected (at most 256 cameras)"
    )]
    [InlineData("# centroids, frameRate=50, cameras=2, frames=3\nu,v\n", "line 2: a header 'frame,camera,u,v' is expected")]
    [InlineData(
        Dots + "0,0,1,2\n3,0,1,2\n",
        "line 4: frame 3, camera 0 is beyond the 3 frames and 2 cameras that the first line announces"
    )]
    [InlineData(Dots + "0,2,1,2\n", "line 3: frame 0, camera 2 is beyond the 3 frames and 2 cameras that the first line announces")]
    [InlineData(Dots + "0,1,1,2\n0,0,1,2\n", "line 4: frame 0, camera 0 comes twice or out of order")]
    [InlineData(Dots + "0,0,1,2,3\n", "line 3: a u has no v")]
    [InlineData(Dots + "0,0,1,left\n", "line 3: a pixel is not a number")]
    [InlineData(Dots + "0,0,1,2000000\n", "line 3: a pixel is not a number")]
    [InlineData(Dots + "0;0,1,2\n", "line 3: a comma is expected between numbers")]
    [InlineData(Dots + "-1,0,1,2\n", "line 3: frame and camera must be whole numbers from 0")]
    public void Of_a_table_of_dots(string text, string said) => Says(said, () => CentroidCsv.Read(Encoding.UTF8.GetBytes(text), "x"));

    private static string Suit(string units = "rad/s m/s2 uT", Func<string, int, string>? cell = null, string? without = null)
    {
        var columns = SuitCsv.Columns.Where(c => c != without).ToArray();
        var rows = Enumerable.Range(0, 3).Select(f => $"{f}," + string.Join(',', columns.Select(c => cell?.Invoke(c, f) ?? "1")));
        return $"# samples, frameRate=50, units={units}\nframe,{string.Join(',', columns)}\n{string.Join('\n', rows)}\n";
    }

    [Fact]
    public void Of_a_suits_table()
    {
        static SuitTake Read(string text) => SuitCsv.Read(Encoding.UTF8.GetBytes(text), "x");
        var third = SuitCsv.Columns[3];
        Says($"line 2: the column '{third}' is missing: all seventeen sensors are needed", () => Read(Suit(without: third)));
        Says($"column {third}: it has no sample at all: this sensor did not send", () => Read(Suit(cell: (c, _) => c == third ? "" : "1")));
        Says("line 1: the unit 'turns' is not known (rad/s deg/s, m/s2 g, uT mG)", () => Read(Suit("turns")));
        // One sample is enough, the others are lost.
        var one = Read(Suit(cell: (c, f) => c == third && f != 1 ? "" : "1"));
        Assert.Equal([float.NaN, 1, float.NaN], Enumerable.Range(0, 3).Select(f => one.Samples[(f * SuitTake.Stride) + 3]));
        var scaled = Read(Suit("deg/s g mG"));
        Assert.Equal(MathF.PI / 180, scaled.Samples[0], 6);
        Assert.Equal(9.80665f, scaled.Samples[3], 4);
        Assert.Equal(0.1f, scaled.Samples[6], 6);
        var more = Read(
            Suit()
                .Replace("frame,", "frame,Hat.x,", StringComparison.Ordinal)
                .Replace("\n0,", "\n0,5,", StringComparison.Ordinal)
                .Replace("\n1,", "\n1,5,", StringComparison.Ordinal)
                .Replace("\n2,", "\n2,5,", StringComparison.Ordinal)
        );
        Assert.Equal("1 columns are of no sensor of the suit and left out (Hat.x …)", Assert.Single(more.Warnings));
    }

    [Theory]
    [InlineData("frame,a\n-1,1\n", "line 3: '-1' is no frame number")]
    [InlineData("frame,a\n1.5,1\n", "line 3: '1.5' is no frame number")]
    [InlineData("frame,a\n1e8,1\n", "line 3: '100000000' is no frame number")]
    [InlineData("frame,a\n3,1\n2,1\n", "line 4: frame 2 comes after frame 3")]
    public void Of_a_table_of_samples(string rows, string said) =>
        Says(said, () => SampleTableCsv.Read(Encoding.UTF8.GetBytes("# samples, frameRate=50\n" + rows), "x"));

    [Fact]
    public void A_table_of_samples_without_frame_numbers_counts_its_rows()
    {
        var table = SampleTableCsv.Read("# samples, frameRate=50\na,b\n1,2\n3,4\n"u8.ToArray(), "x");
        Assert.Equal((2, 0), (table.FrameCount, table.Warnings.Count));
        Assert.Equal([1f, 2, 3, 4], table.Values);
    }
}
