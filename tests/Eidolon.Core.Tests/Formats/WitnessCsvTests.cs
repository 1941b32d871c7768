using System.Text;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Video;

namespace Eidolon.Core.Tests.Formats;

public sealed class WitnessCsvTests
{
    private static readonly string[] Points = ["ShoulderL", "ShoulderR", "HipL", "HipR", "KneeL", "KneeR", "AnkleL", "AnkleR"];

    private static byte[] Table(IEnumerable<string> points, string row = "5,6,0.9") =>
        Encoding.UTF8.GetBytes(
            $"# samples, frameRate=25, units=px\nframe,{string.Join(',', points.Select(p => $"{p}.u,{p}.v,{p}.confidence"))}\n"
                + $"0,{string.Join(',', points.Select(_ => row))}\n1,{string.Join(',', points.Select(_ => ",,"))}\n"
        );

    [Fact]
    public void Points_are_read_and_empty_ones_are_not_seen()
    {
        var film = WitnessCsv.Read(Table(Points), "w.csv");
        Assert.Equal((25, 2), (film.FrameRate, film.FrameCount));
        Assert.Equal((5f, 6f, 0.9f), film.At(0, 3));
        Assert.Equal(0, film.At(1, 3).Confidence);
    }

    [Fact]
    public void A_film_without_a_knee_says_so() =>
        Assert.Contains(
            "KneeR",
            Assert.Throws<InvalidInputException>(() => WitnessCsv.Read(Table(Points.Where(p => p != "KneeR")), "w.csv")).Message,
            StringComparison.Ordinal
        );

    [Fact]
    public void Half_a_point_says_so()
    {
        var text = Encoding.UTF8.GetString(Table(Points)).Replace("HipL.v", "HipL.w", StringComparison.Ordinal);
        Assert.Contains(
            "HipL.v",
            Assert.Throws<InvalidInputException>(() => WitnessCsv.Read(Encoding.UTF8.GetBytes(text), "w.csv")).Message,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void A_point_put_by_hand_stands_over_the_trackers_in_its_frame_only()
    {
        var film = WitnessCsv.Read(Table(Points), "w.csv");
        var fix = Encoding.UTF8.GetBytes("# samples, frameRate=25, units=px\nframe,KneeL.u,KneeL.v,AnkleL.u,AnkleL.v\n1,70,80,,\n");
        var mended = FilmFixes.Apply([film], WitnessCsv.Corrections(film, 0, fix, "fix.csv"))[0];
        Assert.Equal((70f, 80f, 1f), mended.At(1, 4));
        Assert.Equal(film.At(0, 4), mended.At(0, 4));
        Assert.Equal(0, mended.At(1, 6).Confidence);
    }

    [Fact]
    public void A_correction_of_a_frame_that_is_not_there_says_so()
    {
        var film = WitnessCsv.Read(Table(Points), "w.csv");
        var fix = Encoding.UTF8.GetBytes("# samples, frameRate=25, units=px\nframe,KneeL.u,KneeL.v\n7,70,80\n");
        var said = Assert.Throws<InvalidInputException>(() => WitnessCsv.Corrections(film, 0, fix, "fix.csv"));
        Assert.Contains("no frame 7", said.Message, StringComparison.Ordinal);
    }
}
