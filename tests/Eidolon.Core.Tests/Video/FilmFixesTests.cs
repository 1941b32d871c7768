using Eidolon.Core.Video;

namespace Eidolon.Core.Tests.Video;

/// <summary>What a person puts right in films: where it counts, what goes along with it, what is refused.</summary>
public sealed class FilmFixesTests
{
    private static readonly string[] Names = ["WristL", "KnuckleL", "KneeR"];

    [Fact]
    public void A_corrected_point_counts_fully_and_its_hand_goes_along()
    {
        var film = FilmFixes.Apply([Film()], [new FilmFix(0, 10, "WristL", 150, 260)])[0];
        Assert.Equal((150f, 260f, 1f), film.At(10, 0));
        // The knuckle was 20 to the right of the wrist: it stays so, and is not surer than a tracker.
        Assert.Equal((170f, 260f, 0.75f), film.At(10, 1));
        Assert.Equal((100f, 200f, 0.9f), film.At(11, 0));
        Assert.Equal((300f, 400f, 0.9f), film.At(10, 2));
    }

    [Fact]
    public void Between_two_corrections_near_in_time_the_way_is_drawn_through_both()
    {
        FilmFix[] fixes = [new(0, 10, "KneeR", 300, 400), new(0, 18, "KneeR", 380, 480)];
        var film = FilmFixes.Apply([Film()], fixes)[0];
        Assert.Equal(340, film.At(14, 2).U, 1);
        Assert.Equal(440, film.At(14, 2).V, 1);
        Assert.Equal(0.75f, film.At(14, 2).Confidence);
        Assert.Equal(0.9f, film.At(19, 2).Confidence);
    }

    [Fact]
    public void Corrections_far_apart_say_nothing_of_what_is_between()
    {
        var film = FilmFixes.Apply([Film()], [new(0, 2, "KneeR", 350, 450), new(0, 30, "KneeR", 350, 450)])[0];
        Assert.Equal((300f, 400f, 0.9f), film.At(16, 2));
    }

    [Fact]
    public void The_last_word_about_a_frame_counts_and_what_hangs_has_its_own()
    {
        FilmFix[] fixes = [new(0, 5, "KnuckleL", 1, 2), new(0, 5, "WristL", 50, 60), new(0, 5, "WristL", 70, 80)];
        var film = FilmFixes.Apply([Film()], fixes)[0];
        Assert.Equal((70f, 80f, 1f), film.At(5, 0));
        Assert.Equal((1f, 2f, 1f), film.At(5, 1));
    }

    [Fact]
    public void Where_the_wrist_was_not_seen_nobody_knows_the_hand()
    {
        var film = Film();
        film.Values[(7 * 9) + 2] = 0;
        var mended = FilmFixes.Apply([film], [new FilmFix(0, 7, "WristL", 90, 90)])[0];
        Assert.Equal(0, mended.At(7, 1).Confidence);
        Assert.Equal(0.8f, film.At(7, 1).Confidence);
    }

    [Theory]
    [InlineData(1, 0, "KneeR", "there is no film 2")]
    [InlineData(0, 40, "KneeR", "there is no frame 40")]
    [InlineData(0, -1, "KneeR", "there is no frame -1")]
    [InlineData(0, 0, "Tail", "no point 'Tail'")]
    public void What_is_not_there_is_refused(int film, int frame, string point, string reason)
    {
        var said = Assert.Throws<RefusedException>(() => FilmFixes.Apply([Film()], [new FilmFix(film, frame, point, 1, 1)]));
        Assert.Contains(reason, said.Message, StringComparison.Ordinal);
    }

    [Fact]
    public void Legs_are_put_back_only_where_it_is_said()
    {
        var film = new FilmTake(30, ["KneeL", "KneeR"], [.. Enumerable.Range(0, 10).SelectMany(_ => new[] { 1f, 2, 1, 5, 6, 1 })]);
        var back = LegExchange.PutBack(film, [(3, 4), (9, 12)]);
        Assert.Equal([1, 1, 1, 5, 5, 1, 1, 1, 1, 5], Enumerable.Range(0, 10).Select(f => (int)back.At(f, 0).U));
        Assert.Same(film, LegExchange.PutBack(film, []));
    }

    /// <summary>Forty frames in which nothing moves.</summary>
    private static FilmTake Film() =>
        new(30, Names, [.. Enumerable.Range(0, 40).SelectMany(_ => new[] { 100f, 200, 0.9f, 120, 200, 0.8f, 300, 400, 0.9f })]);
}
