using System.Text;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Inertial;

namespace Eidolon.Core.Tests.Formats;

public sealed class SampleTableTests
{
    private static SampleTable Read(string text) => SampleTableCsv.Read(Encoding.UTF8.GetBytes(text), "t.csv");

    [Fact]
    public void Cells_are_read_by_their_column_and_an_empty_one_is_lost()
    {
        var t = Read("# samples, frameRate=50, units=px\r\nB.u,frame,A.v\r\n1.5,0,-2\r\n,1,3e1\r\n");
        Assert.Equal(["B.u", "A.v"], t.Columns);
        Assert.Equal([1.5f, -2, float.NaN, 30], t.Values);
        Assert.Equal((50, 2, "px"), (t.FrameRate, t.FrameCount, t.Units));
    }

    [Theory]
    [InlineData("# points, frameRate=50\nframe,a\n0,1\n", "line 1")]
    [InlineData("# samples, frameRate=fast\nframe,a\n0,1\n", "line 1")]
    [InlineData("# samples, frameRate=50\nframe\n0\n", "line 2")]
    [InlineData("# samples, frameRate=50\nframe,a,a\n0,1,1\n", "'a' comes twice")]
    [InlineData("# samples, frameRate=50\nframe,a,b\n0,1\n", "the row ends after 2 of 3 cells")]
    [InlineData("# samples, frameRate=50\nframe,a\n0,1,2\n", "more than 2 cells")]
    [InlineData("# samples, frameRate=50\nframe,a\n0,1\n1,x\n", "line 4, cell 2")]
    [InlineData("# samples, frameRate=50\nframe,a\n0,1\n0,1\n", "frame 0 comes after frame 0")]
    [InlineData("# samples, frameRate=50\nframe,a\n", "no rows")]
    [InlineData("# samples, frameRate=50\nframe,a\n0,1e30\n", "is not a number")]
    public void What_is_wrong_is_said_with_its_place(string text, string said)
    {
        var e = Assert.Throws<InvalidInputException>(() => Read(text));
        Assert.Contains(said, e.Message, StringComparison.Ordinal);
        Assert.Contains("t.csv", e.Message, StringComparison.Ordinal);
    }

    [Fact]
    public void A_jump_of_frame_numbers_is_said() =>
        Assert.Contains("jump from 0 to 5", Read("# samples, frameRate=50\nframe,a\n0,1\n5,1\n").Warnings[0], StringComparison.Ordinal);

    [Fact]
    public void A_suits_table_comes_back_as_it_was_whatever_the_order_of_its_columns()
    {
        var take = new SuitTake(100, [.. Enumerable.Range(0, 3 * SuitTake.Stride).Select(i => i * 0.25f)]);
        take.Samples[7] = float.NaN;
        using var stream = new MemoryStream();
        SuitCsv.Write(stream, take);
        var lines = Encoding.UTF8.GetString(stream.ToArray()).Split('\n');
        // The last column goes to the front.
        for (var i = 1; i < lines.Length - 1; i++)
        {
            var cut = lines[i].LastIndexOf(',');
            lines[i] = lines[i][(cut + 1)..] + "," + lines[i][..cut];
        }

        var back = SuitCsv.Read(Encoding.UTF8.GetBytes(string.Join('\n', lines)), "s.csv");
        Assert.Equal(take.Samples, back.Samples);
        Assert.Equal(100, back.FrameRate);
    }

    [Fact]
    public void A_suit_without_a_sensor_says_which()
    {
        var columns = SuitCsv.Columns.Where(c => !c.StartsWith("ShinL", StringComparison.Ordinal)).ToArray();
        var text =
            $"# samples, frameRate=100, units=rad/s\nframe,{string.Join(',', columns)}\n0,{string.Join(',', columns.Select(_ => "1"))}\n";
        var e = Assert.Throws<InvalidInputException>(() => SuitCsv.Read(Encoding.UTF8.GetBytes(text), "s.csv"));
        Assert.Contains("ShinL.gx", e.Message, StringComparison.Ordinal);
    }

    [Fact]
    public void Degrees_and_g_are_brought_to_radians_and_metres()
    {
        var row = string.Join(',', SuitCsv.Columns.Select(_ => "1"));
        var text = $"# samples, frameRate=100, units=deg/s g uT\nframe,{string.Join(',', SuitCsv.Columns)}\n0,{row}\n";
        var take = SuitCsv.Read(Encoding.UTF8.GetBytes(text), "s.csv");
        Assert.Equal([MathF.PI / 180, 9.80665f, 1f], [take.Samples[0], take.Samples[3], take.Samples[6]]);
        var wrong = text.Replace("deg/s g uT", "furlongs", StringComparison.Ordinal);
        Assert.Throws<InvalidInputException>(() => SuitCsv.Read(Encoding.UTF8.GetBytes(wrong), "s.csv"));
    }
}
