using System.Numerics;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Video;
using Eidolon.StandIns.Video;

namespace Eidolon.Core.Tests.Video;

/// <summary>A motion seen through a camera that filmed it: where its points are, and the stretches in which a film disagrees.</summary>
public sealed class FilmLookTests
{
    private const double Rate = 30;

    [Fact]
    public void A_film_of_the_motion_itself_is_nowhere_off()
    {
        var (film, look) = Filmed(Standing(90));
        Assert.Contains("WristL", look.Names);
        Assert.All(look.Misses(), m => Assert.InRange(m!.Value, 0, 0.01));
        Assert.Empty(Stretches(film, look, Standing(90)));
    }

    [Fact]
    public void A_stretch_in_which_a_hand_is_elsewhere_is_found_with_its_frames_and_its_film()
    {
        var motion = Standing(90);
        var (film, look) = Filmed(motion);
        foreach (var point in new[] { "WristR", "KnuckleR", "IndexR1", "LittleR1" })
        {
            for (var f = 30; f <= 50; f++)
            {
                film.Values[((f * film.Names.Count) + film.IndexOf(point)) * 3] += 80;
            }
        }

        var found = Assert.Single(Stretches(film, look, motion));
        Assert.Equal(
            ("film", 30, 50, Severity.MustFix, "Hand R in quay side"),
            (found.Kind, found.Start, found.End, found.Severity, found.Subject)
        );
        Assert.Equal(80, found.Measure, 0);
    }

    [Fact]
    public void A_guess_of_the_tracker_says_nothing()
    {
        var motion = Standing(60);
        var (film, look) = Filmed(motion);
        for (var f = 10; f <= 40; f++)
        {
            var at = ((f * film.Names.Count) + film.IndexOf("KneeL")) * 3;
            (film.Values[at], film.Values[at + 2]) = (film.Values[at] + 300, 0.3f);
        }

        Assert.Empty(Stretches(film, look, motion));
    }

    [Fact]
    public void A_film_that_began_later_is_seen_at_its_own_moments()
    {
        var motion = Standing(60);
        for (var f = 0; f < 60; f++)
        {
            motion.Translations[f * motion.Skeleton.Count] += new Vector3(0.01f * f, 0, 0);
        }

        var film = Blank(30);
        var camera = WitnessSimulator.Cameras[0];
        var look = new FilmLook(film, camera, 10 / Rate, motion);
        var (own, first) = (new Vector2[look.Names.Count], new Vector2[look.Names.Count]);
        look.Project(5, own);
        new FilmLook(film, camera, 0, motion).Project(15, first);
        Assert.Equal(first[0].X, own[0].X, 2);
        look.Project(55, own);
        Assert.True(float.IsNaN(own[0].X));
    }

    private static IReadOnlyList<Finding> Stretches(FilmTake film, FilmLook look, Motion motion) =>
        FilmStretches.Find([film], [look], [1920], [0], ["quay side"], motion);

    private static (FilmTake Film, FilmLook Look) Filmed(Motion motion)
    {
        var film = Blank(motion.FrameCount);
        var look = new FilmLook(film, WitnessSimulator.Cameras[0], 0, motion);
        var places = new Vector2[look.Names.Count];
        for (var f = 0; f < film.FrameCount; f++)
        {
            look.Project(f, places);
            foreach (var (name, p) in look.Names.Zip(places))
            {
                var at = ((f * film.Names.Count) + film.IndexOf(name)) * 3;
                (film.Values[at], film.Values[at + 1], film.Values[at + 2]) = (p.X, p.Y, 0.9f);
            }
        }

        return (film, look);
    }

    private static FilmTake Blank(int frames) =>
        new(Rate, [.. FilmPoints.All.Select(p => p.Name)], new float[frames * FilmPoints.All.Count * 3]);

    private static Motion Standing(int frames)
    {
        var s = Anthropometry.Body(1.7f);
        var motion = new Motion(s, Rate, frames);
        for (var k = 0; k < motion.Rotations.Length; k++)
        {
            motion.Rotations[k] = Quaternion.Identity;
            motion.Translations[k] = s[k % s.Count].Offset;
        }

        return motion;
    }
}
