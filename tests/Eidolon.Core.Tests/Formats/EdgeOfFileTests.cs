using System.Diagnostics;
using System.Text;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Bvh;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Tests.Formats;

/// <summary>Marks before a text, times of rows, positions beyond reason, and what is no file at all.</summary>
public sealed class EdgeOfFileTests : IDisposable
{
    private static readonly byte[] Mark = [0xEF, 0xBB, 0xBF];
    private readonly string _folder = Directory.CreateTempSubdirectory("eidolon-edges").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private static MarkerTake Table(IEnumerable<double> times, string head = "") =>
        CsvMarkers.Read(
            Encoding.UTF8.GetBytes(
                head
                    + "time,A.x,A.y,A.z\n"
                    + string.Concat(
                        times.Select((t, i) => string.Create(System.Globalization.CultureInfo.InvariantCulture, $"{t:0.######},{i},1,0\n"))
                    )
            ),
            "t.csv"
        );

    [Fact]
    public void A_text_that_begins_with_a_byte_order_mark_is_read_as_without_it()
    {
        var motion = Samples.Random(3, moving: false, turnedRest: false);
        using var bvh = new MemoryStream();
        BvhWriter.Write(bvh, motion, 0.01);
        Assert.Equal(
            BvhReader.Read(bvh.ToArray(), "a.bvh").Rotations,
            MotionFiles.ReadMotion([.. Mark, .. bvh.ToArray()], "a.bvh").Rotations
        );
        // Without an ending of its name it is told by its first word.
        Assert.Equal(FileKind.Bvh, MotionFiles.KindOf("a", [.. Mark, .. bvh.ToArray()]));
        var take = new MarkerTake(["A", "B"], 60, 3);
        using var csv = new MemoryStream();
        CsvMarkers.Write(csv, take);
        var read = MotionFiles.ReadMarkers([.. Mark, .. csv.ToArray()], "a.csv").Take;
        Assert.Equal((60.0, 3), (read.FrameRate, read.FrameCount));
        Assert.DoesNotContain(read.Warnings, w => w.Contains("no unit", StringComparison.Ordinal));
        var table = Encoding.UTF8.GetBytes("# samples, frameRate=60\nframe,AU1,AU2\n0,0.5,0.25\n1,0.5,0.25\n");
        Assert.Equal(FaceCsv.Read(table, "f.csv").Names, FaceCsv.Read([.. Mark, .. table], "f.csv").Names);
    }

    [Fact]
    public void A_gap_between_rows_is_a_gap_and_the_rate_is_that_of_most_rows()
    {
        // Two stretches of 25 rows at 60 a second, a hundred frames missing between them.
        var times = Enumerable.Range(0, 25).Concat(Enumerable.Range(125, 25)).Select(f => f / 60.0).ToArray();
        var take = Table(times);
        Assert.Equal((60.0, 150), (take.FrameRate, take.FrameCount));
        Assert.Equal(50, take.VisibleFrames(0));
        Assert.Equal((24f, 25f), (take[24, 0].X, take[125, 0].X));
        Assert.All(Enumerable.Range(25, 100), f => Assert.False(MarkerTake.Seen(take[f, 0])));
        Assert.Contains(take.Warnings, w => w.Contains("missing at 1 place", StringComparison.Ordinal));
        // A head that says something else than the rows is not believed.
        var said = Table(times, "# points, frameRate=120, units=m\n");
        Assert.Equal(60, said.FrameRate);
        Assert.Contains(said.Warnings, w => w.Contains("names 120", StringComparison.Ordinal));
        Assert.Equal(59.94, Table(Enumerable.Range(0, 40).Select(f => f * 1001 / 60000.0)).FrameRate, 2);
    }

    [Theory]
    [InlineData(new[] { 0, 1 / 60.0, 1 / 60.0, 3 / 60.0 }, "line 4", "stands in two rows")]
    [InlineData(new[] { 0, 1 / 60.0, 0.01, 3 / 60.0 }, "line 4", "runs backwards")]
    public void Times_that_repeat_or_run_backwards_are_refused_with_their_line(double[] times, string place, string reason)
    {
        var said = Assert.Throws<InvalidInputException>(() => Table(times));
        Assert.Equal(place, said.Place);
        Assert.Contains(reason, said.Reason, StringComparison.Ordinal);
    }

    [Fact]
    public void A_gap_of_years_is_refused_and_rows_beside_their_moment_are_told()
    {
        Assert.ThrowsAny<Exception>(() => Table([0, 0.01, 0.02, 1e9]));
        var shaken = Table(Enumerable.Range(0, 40).Select(f => (f / 60.0) + (f == 20 ? 0.006 : 0)));
        Assert.Equal(40, shaken.FrameCount);
        Assert.Contains(shaken.Warnings, w => w.Contains("not at a moment", StringComparison.Ordinal));
    }

    [Fact]
    public void Positions_beyond_a_kilometre_are_refused_with_the_frame_and_the_name()
    {
        var motion = Samples.Random(4, moving: false);
        motion.TranslationsAt(7)[0] = new System.Numerics.Vector3(0, 1e7f, 0);
        using var glb = new MemoryStream();
        MotionFiles.WriteMotion(glb, ".glb", motion);
        var said = Assert.Throws<InvalidInputException>(() => MotionFiles.ReadMotion(glb.ToArray(), "far.glb"));
        Assert.Contains("frame 7", said.Place, StringComparison.Ordinal);
        Assert.Contains("kilometre", said.Reason, StringComparison.Ordinal);
        var points = Encoding.UTF8.GetBytes("# points, frameRate=60, units=m\ntime,A.x,A.y,A.z\n0,1e36,0,0\n");
        said = Assert.Throws<InvalidInputException>(() => MotionFiles.ReadMarkers(points, "far.csv"));
        Assert.Equal("frame 0, A", said.Place);
        // An import may put the unit right first: what lies two kilometres away in metres is two metres in millimetres.
        var near = Encoding.UTF8.GetBytes("# points, frameRate=60, units=m\ntime,A.x,A.y,A.z\n0,2000,0,0\n");
        var file = ImportedFile.Read(near, "mm.csv");
        Assert.Equal(2, file.Corrected(new ImportSettings(Scale: 0.001)).Markers![0, 0].X, 3);
        Assert.Throws<InvalidInputException>(() => file.Corrected(new ImportSettings()));
    }

    [Fact]
    public async Task A_device_or_a_pipe_is_refused_at_once()
    {
        Assert.Contains(
            "device or a pipe",
            Assert.Throws<InvalidInputException>(() => InputFile.Read("/dev/zero")).Reason,
            StringComparison.Ordinal
        );
        var pipe = Path.Combine(_folder, "pipe.bvh");
        using (var made = Process.Start("mkfifo", pipe))
        {
            made.WaitForExit();
        }

        // Nobody writes to it: to open it as a file would wait for ever.
        var read = Task.Run(() => Assert.Throws<InvalidInputException>(() => InputFile.Read(pipe)));
        var said = await read.WaitAsync(TimeSpan.FromSeconds(20));
        Assert.Contains("device or a pipe", said.Reason, StringComparison.Ordinal);
        var empty = Path.Combine(_folder, "empty");
        File.WriteAllBytes(empty, []);
        Assert.Empty(InputFile.Read(empty));
    }
}
