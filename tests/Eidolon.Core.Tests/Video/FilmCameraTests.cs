using Eidolon.Core.Geometry;
using Eidolon.Core.Optical;
using Eidolon.Core.Video;

namespace Eidolon.Core.Tests.Video;

public class FilmCameraTests
{
    /// <summary>Joints of somebody standing: spread in height and width, hardly in depth.</summary>
    private static readonly Vector3d[] Standing =
    [
        new(0.1, 1.68, 0.32),
        new(-0.1, 0.09, 0.30),
        new(0.3, 0.10, 0.25),
        new(0.75, 1.40, 0.28),
        new(-0.60, 1.38, 0.35),
        new(0.25, 0.5, 0.33),
        new(-0.08, 0.52, 0.36),
        new(0.12, 0.95, 0.27),
        new(0.45, 1.1, 0.5),
    ];

    [Theory]
    [InlineData(1280, 720, 1100, 3.2, 1.5, 2.4, 0)]
    [InlineData(1920, 1080, 2600, -5.0, 1.0, 4.0, 0)]
    [InlineData(640, 480, 520, 0.4, 2.2, -3.5, 0)]
    [InlineData(1280, 720, 1100, 3.2, 1.5, 2.4, 1.5)]
    public void The_camera_is_found_again(int width, int height, double focal, double x, double y, double z, double noise)
    {
        var truth = CameraModel.Nominal("film", width, height, focal).LookingAt(new Vector3d(x, y, z), new Vector3d(0.15, 0.95, 0.3));
        var random = new Random(4);
        // Clicked at two moments: there and a stride further.
        var places = Standing.Concat(Standing.Select(p => p + new Vector3d(0.5, 0.02, -0.6))).ToArray();
        var clicks = places
            .Select(p =>
            {
                Assert.True(truth.TryProject(p, out var u, out var v));
                return (u + (noise * (random.NextDouble() - 0.5) * 2), v + (noise * (random.NextDouble() - 0.5) * 2));
            })
            .ToArray();
        var (camera, rms) = FilmCamera.Locate(places, clicks, width, height);
        Assert.InRange(rms, 0, noise == 0 ? 0.01 : 1.6);
        Assert.InRange((camera.Position - truth.Position).Length, 0, noise == 0 ? 0.002 : 0.25);
        Assert.InRange(camera.Focal / truth.Focal, noise == 0 ? 0.999 : 0.95, noise == 0 ? 1.001 : 1.05);
    }

    [Fact]
    public void Points_of_one_moment_are_enough_to_lay_the_figure_over_the_picture()
    {
        var truth = CameraModel.Nominal("film", 1280, 720, 1000).LookingAt(new Vector3d(2.5, 1.4, 4), new Vector3d(0, 1, 0.3));
        var clicks = Standing
            .Select(p =>
            {
                truth.TryProject(p, out var u, out var v);
                return (u, v);
            })
            .ToArray();
        var (camera, rms) = FilmCamera.Locate(Standing, clicks, 1280, 720);
        Assert.True(rms < 0.05);
        Assert.True(
            camera.TryProject(new Vector3d(0.2, 1.2, 0.4), out var fu, out var fv)
                && truth.TryProject(new Vector3d(0.2, 1.2, 0.4), out var tu, out var tv)
                && Math.Abs(fu - tu) < 2
                && Math.Abs(fv - tv) < 2
        );
    }

    [Fact]
    public void Too_few_points_or_points_in_a_heap_are_refused_with_the_reason()
    {
        Assert.Contains(
            "6 points",
            Assert.Throws<RefusedException>(() => FilmCamera.Locate(Standing[..5], new (double, double)[5], 640, 480)).Message,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "far apart",
            Assert.Throws<RefusedException>(() => FilmCamera.Locate(Standing, [.. Standing.Select(_ => (320.0, 240.0))], 640, 480)).Message,
            StringComparison.Ordinal
        );
    }
}
