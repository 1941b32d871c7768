using System.Text;
using Eidolon.Core.Formats;
using Eidolon.Core.Operations;
using Eidolon.Core.Optical;
using Eidolon.Core.Video;

namespace Eidolon.Core.Tests.Formats;

/// <summary>Films as they come in: one after the other, with cameras or without.</summary>
public sealed class ImportedFilmsTests
{
    [Theory]
    [InlineData(600, 400, 640, 480)]
    [InlineData(1200, 700, 1280, 720)]
    [InlineData(1900, 1000, 1920, 1080)]
    [InlineData(1900, 1300, 2560, 1440)]
    [InlineData(9000, 9000, 3840, 2160)]
    public void A_camera_nobody_knows_has_the_smallest_usual_picture_that_holds_all_points(float u, float v, int width, int height)
    {
        var camera = ImportedFilms.Join(null, Film(u, v), "boathouse.csv").Cameras[0];
        Assert.Equal(("boathouse", width, height, false), (camera.Name, camera.Width, camera.Height, camera.IsPlaced));
        Assert.Equal(ImportedFilms.UsualAngle, 2 * Math.Atan(camera.Width / 2.0 / camera.Focal) * 180 / Math.PI, 6);
    }

    [Fact]
    public void Films_join_in_their_order_and_take_their_cameras()
    {
        var two = ImportedFilms.Join(ImportedFilms.Join(null, Film(10, 10), "a.csv"), Film(20, 20), "b.csv");
        Assert.Equal([10f, 20f], two.Films.Select(f => f.Values[0]));
        var placed = CameraModel.Nominal("crane", 1920, 1080, 1400).LookingAt(new(0, 2, 6), default);
        Assert.Equal("crane", ImportedFilms.WithCameras(two, [placed, placed, placed], "c.json").Cameras[1].Name);
        var said = Assert.Throws<InvalidInputException>(() => ImportedFilms.WithCameras(two, [placed], "c.json"));
        Assert.Contains("2 films need as many cameras, the file has 1", said.Message, StringComparison.Ordinal);
        FilmValue many = two;
        for (var k = 2; k < ImportedFilms.Most; k++)
        {
            many = ImportedFilms.Join(many, Film(1, 1), "x.csv");
        }

        Assert.Throws<InvalidInputException>(() => ImportedFilms.Join(many, Film(1, 1), "x.csv"));
    }

    [Fact]
    public void A_lens_is_set_where_no_camera_file_tells_it_and_slow_motion_gets_its_own_rate()
    {
        var placed = CameraModel.Nominal("crane", 1920, 1080, 1400).LookingAt(new(0, 2, 6), default);
        var films = ImportedFilms.Join(ImportedFilms.Join(null, Film(1900, 10), "a.csv"), Film(1900, 20), "b.csv");
        Assert.All(ImportedFilms.Corrected(films, false, 90, 1).Cameras, c => Assert.Equal(960, c.Focal, 6));
        // A camera file tells the lens of a camera that nobody has placed, too.
        var told = CameraModel.Nominal("quay", 1920, 1080, 1700);
        var set = ImportedFilms.Corrected(films with { Cameras = [placed, told] }, true, 90, 4);
        Assert.Equal([placed, told], set.Cameras);
        Assert.Equal([120.0, 120.0], set.Films.Select(f => f.FrameRate));
        Assert.Throws<RefusedException>(() => ImportedFilms.Corrected(films, false, 3, 1));
        Assert.Throws<RefusedException>(() => ImportedFilms.Corrected(films, false, 60, 0));
    }

    [Fact]
    public void A_table_of_samples_is_a_film_or_a_suit_by_its_columns()
    {
        var points = new[] { "ShoulderL", "ShoulderR", "HipL", "HipR", "KneeL", "KneeR", "AnkleL", "AnkleR" };
        var header = string.Join(',', points.SelectMany(p => new[] { $"{p}.u", $"{p}.v" }));
        var row = string.Join(',', Enumerable.Range(0, 16).Select(i => 100 + i));
        var table = $"# samples, frameRate=30, units=px\nframe,{header}\n0,{row}\n1,{row}\n";
        var file = ImportedFile.Read(Encoding.UTF8.GetBytes(table), "quay.csv");
        Assert.Null(file.Suit);
        Assert.Equal((30.0, 2), (file.FrameRate, file.FrameCount));
        Assert.True(double.IsNaN(file.Height()));
        Assert.Equal("quay", file.Films!.Cameras[0].Name);
    }

    private static FilmTake Film(float u, float v) => new(30, ["KneeL", "KneeR"], [u, v, 1, 1, 1, 1, u, v, 0, 99999, 1, 0]);
}
