using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Hands;
using Eidolon.Core.Optical;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Video;
using Eidolon.Devices;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.StandIns.Video;

namespace Eidolon.Core.Tests.Video;

/// <summary>Fingers from the hand points of films, on bodies that are not quite where they are.</summary>
public sealed class FilmHandsTests
{
    private const double Rate = 30;

    private static readonly Performance Scene = Acts.Perform("signal-wave", HarbourCast.Ines, 3, Rate);

    private static Motion Truth => Scene.Actors[0].Motion;

    private static FilmTake Film(int camera, Func<int, int, bool>? unseen = null)
    {
        var seen = WitnessSimulator.See(Scene, camera, 7 + camera);
        var points = new float[Scene.FrameCount * WitnessPoints.Count * 3];
        for (var f = 0; f < Scene.FrameCount; f++)
        {
            seen.AsSpan(f * WitnessPoints.Values, WitnessPoints.Count * 3).CopyTo(points.AsSpan(f * WitnessPoints.Count * 3));
            for (var p = 0; unseen is not null && p < WitnessPoints.Count; p++)
            {
                points[(((f * WitnessPoints.Count) + p) * 3) + 2] *= unseen(f, p) ? 0 : 1;
            }
        }

        return new FilmTake(Rate, WitnessPoints.Names, points);
    }

    /// <summary>The true body without fingers, moved as a whole.</summary>
    private static Motion Body(Vector3 move)
    {
        var body = HandSkeleton.Without(Truth).Copy();
        for (var f = 0; f < body.FrameCount; f++)
        {
            body.Translations[f * body.Skeleton.Count] += move;
        }

        return body;
    }

    private static (double Degrees, HandPoses Poses, HandReport Report) Solve(
        int[] cameras,
        Vector3 move,
        Func<int, int, bool>? unseen = null
    )
    {
        IReadOnlyList<CameraModel> models = [.. cameras.Select(c => WitnessSimulator.Cameras[c])];
        var (motion, poses, report) = FilmHands.Solve(
            Body(move),
            HarbourCast.Ines.Stature,
            [.. cameras.Select(c => Film(c, unseen))],
            models,
            new double[cameras.Length]
        );
        Assert.All(poses.Poses, p => Assert.True(p is { First: >= 0, Second: >= 0, Third: >= 0 }));
        return (Off(motion), poses, report);
    }

    /// <summary>Degrees RMS over all finger joints and frames.</summary>
    private static double Off(Motion found)
    {
        var sum = 0.0;
        for (var i = 0; i < HandPoses.Fingers * 3; i++)
        {
            var role = HandShape.Joint("LR"[i / 15], i / 3 % 5, (i % 3) + 1);
            int a = Truth.Skeleton.IndexOf(role),
                b = found.Skeleton.IndexOf(role);
            for (var f = 0; f < Truth.FrameCount; f++)
            {
                var angle = Rotations.Angle(Truth.RotationsAt(f)[a], found.RotationsAt(f)[b]);
                sum += angle * angle / (30.0 * Truth.FrameCount);
            }
        }

        return Math.Sqrt(sum) * 180 / Math.PI;
    }

    [Fact]
    public void Three_cameras_tell_the_fingers()
    {
        var (degrees, _, report) = Solve([0, 1, 2], Vector3.Zero);
        Assert.InRange(degrees, 1, 8.5);
        Assert.All(report.Fingers, f => Assert.InRange(f.Seen, 0.9, 1));
        Assert.Empty(report.Warnings);
    }

    [Fact]
    public void A_body_that_is_off_does_not_pull_the_fingers_along()
    {
        var (right, _, _) = Solve([0], Vector3.Zero);
        var (moved, _, _) = Solve([0], new Vector3(0.05f, 0.03f, 0.06f));
        Assert.InRange(right, 1, 13.5);
        Assert.InRange(moved, 1, right + 1);
    }

    [Fact]
    public void A_hand_that_is_hidden_most_of_the_time_is_said_and_goes_on_between()
    {
        var first = WitnessPoints.Names.ToList().IndexOf("PalmL");
        // The left hand is seen in the first third only.
        var (_, poses, report) = Solve([0, 2], Vector3.Zero, (f, p) =>
            f > Scene.FrameCount / 3 && p >= first && p < first + WitnessPoints.HandCount
        );
        Assert.Contains("left hand's fingers are seen in", Assert.Single(report.Warnings), StringComparison.Ordinal);
        Assert.All(report.Fingers.Where(f => f.Side == 'L'), f => Assert.InRange(f.Seen, 0.25, 0.34));
        var held = HandPoses.At(Scene.FrameCount - 1, 0, 1);
        Assert.True(float.IsNaN(poses.Residuals[held]));
        Assert.InRange(poses.Poses[held].Curl, 0.01f, 1);
    }

    [Fact]
    public void What_is_taken_for_a_hand_and_is_none_does_not_move_the_fingers()
    {
        var (names, from, to) = (WitnessPoints.Names.ToList(), 200, 240);
        var film = Film(0);
        // A corner of the net: the points of the right hand, strewn far over the picture.
        for (var f = from; f <= to; f++)
        {
            for (var k = 0; k < WitnessPoints.HandCount; k++)
            {
                var at = ((f * names.Count) + names.IndexOf("PalmR") + k) * 3;
                (film.Values[at], film.Values[at + 1], film.Values[at + 2]) = (900 + (k % 3 * 70), 500 + (k % 4 * 60), 0.9f);
            }
        }

        var (_, poses, _) = FilmHands.Solve(Body(Vector3.Zero), HarbourCast.Ines.Stature, [film], [WitnessSimulator.Cameras[0]], [0]);
        var inside = Enumerable
            .Range(from, to - from + 1)
            .SelectMany(f => Enumerable.Range(0, 5).Select(k => HandPoses.At(f, 1, k)))
            .ToArray();
        Assert.True(inside.Count(i => float.IsNaN(poses.Residuals[i])) > inside.Length * 0.9);
        Assert.All(inside, i => Assert.True(poses.Poses[i] is { First: >= 0, Second: >= 0, Third: >= 0 }));
    }

    [Fact]
    public void Films_without_hand_points_have_no_fingers()
    {
        Assert.True(FilmHands.AreIn([Film(0)]));
        // Knuckles alone tell how a hand is turned, not how its fingers are held.
        string[] body = [.. WitnessPoints.Names.Take(WitnessPoints.BodyCount), "IndexL1", "LittleL1"];
        Assert.False(FilmHands.AreIn([new FilmTake(Rate, body, new float[body.Length * 3])]));
    }
}
