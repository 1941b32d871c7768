using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Cli;
using Eidolon.Core.Assembly;
using Eidolon.Core.Formats;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.Testing;

namespace Eidolon.Core.Tests.Assembly;

/// <summary>Moments at which one motion can go over into another.</summary>
public sealed class MomentFinderTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("eidolon-moments").FullName;

    private static readonly Motion Walk = Scene("lamp-walk", 1);

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private static Motion Scene(string name, int take, double rate = 60) =>
        Acts.Perform(name, HarbourCast.Ines, take, rate).Actors[0].Motion;

    /// <summary>Turned and moved on the floor: nothing that matters.</summary>
    private static Motion Elsewhere(Motion motion, double degrees, Vector3 move)
    {
        var moved = MotionEdits.Turn(motion, Rotations.AboutAxis(1, degrees * Math.PI / 180));
        for (var f = 0; f < moved.FrameCount; f++)
        {
            moved.Translations[f * moved.Skeleton.Count] += move;
        }

        return moved;
    }

    [Theory]
    [InlineData(60, 200, 0)]
    [InlineData(101, 233, 130)]
    public void A_stretch_that_is_in_both_is_found_wherever_it_is_and_faces(int from, int to, double degrees)
    {
        var later = Elsewhere(MotionEdits.Range(Walk, from, to), degrees, new Vector3(3, 0, -2));
        var best = MomentFinder.Find(Walk, later, 1).Single();
        Assert.Equal(from, best.A - best.B);
        Assert.InRange(best.DistanceMillimetres, 0, 1);
        Assert.Equal(best.SupportA, best.SupportB);
        Assert.Equal(18, best.Frames);
    }

    [Fact]
    public void Moments_come_best_first_lie_apart_and_fit_into_both()
    {
        var other = Scene("gangplank-hop", 1);
        var moments = MomentFinder.Find(Walk, other, 8);
        Assert.InRange(moments.Count, 4, 8);
        for (var i = 0; i < moments.Count; i++)
        {
            var m = moments[i];
            Assert.InRange(m.A, 0, Walk.FrameCount - m.Frames);
            Assert.InRange(m.B, 0, other.FrameCount - m.Frames);
            Assert.Equal(MomentFinder.Distance(Walk, m.A, other, m.B, m.Frames) * 1000, m.DistanceMillimetres, 6);
            foreach (var n in moments.Take(i))
            {
                Assert.True(Math.Abs(n.A - m.A) > 15 || Math.Abs(n.B - m.B) > 15);
            }
        }
    }

    [Fact]
    public void The_first_one_beats_laying_the_end_on_the_start()
    {
        string[] scenes = LongRun.Or<string[]>(
            ["lamp-walk", "gangplank-hop", "haul-rope", "crate-carry", "suit-patrol", "rom"],
            ["lamp-walk", "gangplank-hop"]
        );
        var (better, pairs) = (0, 0);
        foreach (var a in scenes)
        {
            foreach (var b in scenes)
            {
                var (one, other) = (Scene(a, 1, 30), Scene(b, 2, 30));
                var best = MomentFinder.Find(one, other, 1).Single();
                var usual = MomentFinder.Distance(one, one.FrameCount - best.Frames, other, 0, best.Frames) * 1000;
                (better, pairs) = (better + (best.DistanceMillimetres <= usual ? 1 : 0), pairs + 1);
            }
        }

        Assert.True(better >= 0.95 * pairs, $"{better} of {pairs}");
    }

    [Fact]
    public void Feet_that_stand_alike_are_chosen()
    {
        var moments = MomentFinder.Find(Walk, Scene("lamp-walk", 2), 5);
        Assert.Equal(moments[0].SupportA, moments[0].SupportB);
        Assert.All(moments, m => Assert.Contains(m.SupportA, new[] { "L", "R", "both", "none" }));
    }

    [Fact]
    public void What_cannot_be_laid_on_each_other_is_refused()
    {
        Assert.Contains(
            "one rate",
            Assert.Throws<RefusedException>(() => MomentFinder.Find(Walk, Scene("rom", 1, 30))).Message,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "shorter",
            Assert.Throws<RefusedException>(() => MomentFinder.Find(Walk, MotionEdits.Range(Walk, 0, 9))).Message,
            StringComparison.Ordinal
        );
        var bare = Samples.Random(3, joints: 9, frames: 60);
        var at60 = new Motion(bare.Skeleton, 60, bare.FrameCount, bare.Rotations, bare.Translations);
        Assert.Contains(
            "too few roles",
            Assert.Throws<RefusedException>(() => MomentFinder.Find(Walk, at60)).Message,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void From_the_shell_frames_are_those_of_each_file()
    {
        string P(string name) => Path.Combine(_folder, name);
        MotionFiles.WriteMotion(P("a.bvh"), Walk);
        MotionFiles.WriteMotion(P("b.bvh"), MotionEdits.Resample(MotionEdits.Range(Walk, 120, 300), 120));
        Assert.Equal(0, Runner.Run(Commands.Root(), ["moments", P("a.bvh"), P("b.bvh"), "--count", "2", "--json", P("r.json")]));
        var report = JsonNode.Parse(File.ReadAllText(P("r.json")))!;
        var best = report["moments"]![0]!;
        Assert.InRange((int)best["a"]! - ((int)best["b"]! / 2.0), 119, 121);
        Assert.InRange((double)best["distanceMillimetres"]!, 0, 2);
        Assert.Contains("frames a second", report["warnings"]!.AsArray().Last()!.GetValue<string>(), StringComparison.Ordinal);
        Assert.True(report["moments"]!.AsArray().Count <= 2);
        Assert.Equal(2, Runner.Run(Commands.Root(), ["moments", P("a.bvh"), P("b.bvh"), "--count", "0"]));
        Assert.Equal(3, Runner.Run(Commands.Root(), ["moments", P("a.bvh"), P("none.bvh")]));
    }
}
