using System.Numerics;
using Eidolon.Core.Assembly;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Geometry;
using Eidolon.Core.Quality;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Assembly;

/// <summary>Cycles found, closed and repeated.</summary>
public sealed class LoopTests
{
    private static readonly Motion Walk = Act("lamp-walk");

    private static Motion Act(string scene) => Acts.Perform(scene, HarbourCast.Ines, 1, 60).Actors[0].Motion;

    private static Vector3[] Pelvis(Motion motion)
    {
        var (n, j) = (motion.Skeleton.Count, motion.Skeleton.IndexOf(BodyRole.Pelvis));
        var world = ForwardKinematics.WorldPositions(motion);
        return [.. Enumerable.Range(0, motion.FrameCount).Select(f => world[(f * n) + j])];
    }

    private static Motion Looped(Motion motion, int cycles, bool inPlace, out LoopReport report)
    {
        var (start, end, apart) = LoopFinder.Find(motion);
        (var looped, report) = LoopMaker.Make(motion, start, end, apart, cycles, inPlace);
        return looped;
    }

    [Theory]
    [InlineData("lamp-walk")]
    [InlineData("haul-rope")]
    [InlineData("gangplank-hop")]
    public void A_cycle_closes(string scene)
    {
        var motion = Act(scene);
        var looped = Looped(motion, 3, false, out var report);
        Assert.Equal(((report.End - report.Start) * 3) + 1, looped.FrameCount);
        Assert.InRange(report.ClosingMillimetres, 0, 1);
        Assert.InRange(report.ClosingDegrees, 0, .5);
        Assert.InRange(report.ClosingSpeed, 0, 20);
        // Measured on the file itself: a cycle later every joint is a stride further, and nothing else.
        var (n, length) = (looped.Skeleton.Count, report.End - report.Start);
        var world = ForwardKinematics.WorldPositions(looped);
        var pelvis = looped.Skeleton.IndexOf(BodyRole.Pelvis);
        var stride = (world[(length * n) + pelvis] - world[pelvis]) with { Y = 0 };
        Assert.Equal(report.StrideMetres, stride.Length(), 3);
        for (var f = 0; f <= length; f += 3)
        {
            for (var j = 0; j < n; j++)
            {
                Assert.InRange((world[((f + length) * n) + j] - stride - world[(f * n) + j]).Length(), 0, 1e-3f);
            }
        }

        // The source's own frames, but for what closes them.
        var own = MotionEdits.Range(motion, report.Start, report.End + 1);
        Assert.InRange(Enumerable.Range(0, own.Rotations.Length).Max(k => Rotations.Angle(own.Rotations[k], looped.Rotations[k])), 0, .35f);
    }

    [Fact]
    public void A_walk_is_one_stride_of_both_feet_and_a_hundred_keep_their_line()
    {
        var looped = Looped(Walk, 100, false, out var report);
        Assert.InRange(report.StrideMetres, 1, 2);
        Assert.InRange((report.End - report.Start) / 60.0, .8, 1.4);
        var way = Pelvis(looped);
        var length = report.End - report.Start;
        var ahead = Vector3.Normalize((way[^1] - way[0]) with { Y = 0 });
        for (var c = 0; c <= 100; c++)
        {
            var d = way[c * length] - way[0];
            Assert.InRange((d - (ahead * Vector3.Dot(d, ahead))).Length(), 0, 2e-3f);
        }

        Assert.InRange(MotionQuality.Measure(looped).SlidePerFrame, 0, 1);
    }

    [Fact]
    public void In_place_nothing_travels_but_sways()
    {
        var (travelling, standing) = (Pelvis(Looped(Walk, 4, false, out var report)), Pelvis(Looped(Walk, 4, true, out _)));
        Assert.All(standing, p => Assert.InRange(((p - standing[0]) with { Y = 0 }).Length(), 0, .1f));
        var sway = standing.Max(p => p.X) - standing.Min(p => p.X) + standing.Max(p => p.Z) - standing.Min(p => p.Z);
        Assert.InRange(sway, .01f, .4f);
        Assert.Equal(report.StrideMetres * 4, ((travelling[^1] - travelling[0]) with { Y = 0 }).Length(), 2);
        Assert.All(travelling.Zip(standing), p => Assert.Equal(p.First.Y, p.Second.Y, 4));
    }

    [Fact]
    public void A_way_that_bends_a_little_is_made_straight()
    {
        // The same walk bent by 5 degrees a second.
        var bent = Walk.Copy();
        var pelvis = Pelvis(Walk);
        var here = pelvis[0];
        for (var f = 0; f < bent.FrameCount; f++)
        {
            var turn = Rotations.AboutAxis(1, f / 60.0 * 5 * Math.PI / 180);
            here += f == 0 ? Vector3.Zero : Vector3.Transform(pelvis[f] - pelvis[f - 1], turn);
            bent.RotationsAt(f)[0] = turn * bent.RotationsAt(f)[0];
            bent.TranslationsAt(f)[0] = here;
        }

        var way = Pelvis(Looped(MotionEdits.Range(bent, 100, 420), 50, false, out var report));
        Assert.InRange(Math.Abs(report.TurnDegrees), 2, 15);
        var length = report.End - report.Start;
        var (first, last) = ((way[length] - way[0]) with { Y = 0 }, (way[^1] - way[^(length + 1)]) with { Y = 0 });
        Assert.InRange(Vector3.Dot(Vector3.Normalize(first), Vector3.Normalize(last)), .999999f, 1.000001f);
        // Inside a cycle too: to the sides it sways as the straight walk does.
        var straight = Pelvis(Looped(MotionEdits.Range(Walk, 100, 420), 2, false, out _));
        Assert.InRange(Aside(way[..(length + 1)]) - Aside(straight[..(length + 1)]), -.008f, .008f);
    }

    private static float Aside(Vector3[] way)
    {
        var ahead = Vector3.Normalize((way[^1] - way[0]) with { Y = 0 });
        var aside = way.Select(p => Vector3.Dot(p - way[0], Vector3.Cross(ahead, Vector3.UnitY))).ToList();
        return aside.Max() - aside.Min();
    }

    [Fact]
    public void Ends_that_go_on_differently_are_led_over_without_a_jolt()
    {
        // A pair that is no good choice: a little late, so that speeds and their changes differ.
        var walk = Acts.Perform("lamp-walk", HarbourCast.Ines, 1, 120).Actors[0].Motion;
        var (start, end, apart) = LoopFinder.Find(walk);
        foreach (var late in new[] { -2, 2, 3 })
        {
            var (_, report) = LoopMaker.Make(walk, start, end + late, apart, 1, false);
            Assert.InRange(report.ClosingMillimetres, 0, 1);
            Assert.InRange(report.ClosingSpeed, 0, 60);
        }
    }

    [Fact]
    public void A_rig_whose_pelvis_goes_under_a_root_loops_with_its_root_still()
    {
        var file = HarbourCharacters.Build("Lamplighter");
        var skeleton = RoleFinder.Assign(GltfReader.GltfBindingOf(GltfReader.Open(file, "l.glb"), "l.glb").Skeleton, null, "l.glb");
        var looped = Looped(
            Retargeter.Retarget(MotionEdits.Range(Walk, 60, 400), skeleton, new RetargetSetup()).Motion,
            3,
            false,
            out var report
        );
        Assert.InRange(report.ClosingMillimetres, 0, 1);
        Assert.True(report.StrideMetres > .7);
        Assert.All(Enumerable.Range(0, looped.FrameCount), f => Assert.Equal(looped.TranslationsAt(0)[0], looped.TranslationsAt(f)[0]));
    }

    [Fact]
    public void What_is_no_cycle_is_said()
    {
        Assert.Contains(
            "shorter than a cycle",
            Assert.Throws<RefusedException>(() => LoopFinder.Find(MotionEdits.Range(Walk, 0, 20))).Message,
            StringComparison.Ordinal
        );
        // Somebody who crouches down once: its ends are far apart.
        var once = MotionEdits.Range(Act("deck-crouch"), 120, 170);
        var (_, report) = LoopMaker.Make(once, 0, 49, .3, 1, false);
        Assert.Contains(report.Warnings, w => w.Contains("hardly a cycle", StringComparison.Ordinal));
    }

    [Theory]
    [InlineData(40)]
    [InlineData(-25)]
    [InlineData(0)]
    public void A_walk_goes_round_as_far_as_it_is_bent(double bend)
    {
        var (start, end, apart) = LoopFinder.Find(Walk);
        var (looped, report) = LoopMaker.Make(Walk, start, end, apart, 9, false, bend: bend);
        Assert.Equal(bend, report.BentDegrees, 6);
        Assert.InRange(report.ClosingMillimetres, 0, 1);
        Assert.InRange(report.ClosingDegrees, 0, .5);
        // So sharp a bend holds its feet at the cost of an even seam, and says so.
        Assert.InRange(report.ClosingSpeed, 0, bend == 40 ? 30 : 20);
        Assert.Equal(report.ClosingSpeed > 20, report.Warnings.Any(w => w.Contains("mm/s", StringComparison.Ordinal)));
        var (way, length) = (Pelvis(looped), report.End - report.Start);
        var turn = Rotations.AboutAxis(1, bend * Math.PI / 180);
        for (var c = 0; c < 7; c++)
        {
            var (now, next) = (
                (way[(c + 1) * length] - way[c * length]) with
                {
                    Y = 0,
                },
                (way[(c + 2) * length] - way[(c + 1) * length]) with
                {
                    Y = 0,
                }
            );
            Assert.InRange((Vector3.Transform(now, turn) - next).Length(), 0, 2e-3f);
        }

        // The body looks where it goes, and its feet stand.
        var slide = OverlapMeasure.Slide(looped, length, 2 * length);
        Assert.True(slide <= 2, $"slides {slide:0.0} mm");
        if (bend == 40)
        {
            Assert.InRange((way[^1] - way[0]).Length(), 0, .02f);
        }
    }

    [Fact]
    public void What_goes_round_a_corner_is_made_straight()
    {
        var (start, end, apart) = LoopFinder.Find(Walk);
        var round = LoopBend.Bent(Walk, start, end, 1.2);
        var (looped, report) = LoopMaker.Make(round, start, end, apart, 20, false, bend: 0);
        Assert.True(Math.Abs(report.TurnDegrees) > 30, $"{report.TurnDegrees}");
        var (way, length) = (Pelvis(looped), report.End - report.Start);
        var ahead = Vector3.Normalize((way[^1] - way[0]) with { Y = 0 });
        for (var c = 0; c <= 20; c++)
        {
            var d = way[c * length] - way[0];
            Assert.InRange((d - (ahead * Vector3.Dot(d, ahead))).Length(), 0, 2e-3f);
        }

        Assert.InRange(report.ClosingSpeed, 0, 20);
    }

    [Fact]
    public void Both_poses_of_a_cycle_are_told_joint_by_joint()
    {
        var (start, end, apart) = LoopFinder.Find(Walk);
        var (_, report) = LoopMaker.Make(Walk, start, end, apart, 1, false);
        var poses = report.Poses;
        Assert.Contains(BodyRole.HandL, poses.Roles);
        Assert.DoesNotContain(BodyRole.Root, poses.Roles);
        Assert.InRange(Enumerable.Range(0, poses.Roles.Count).Max(poses.Millimetres), 0.1, 60);
        // A pose against itself is the same; an arm that is turned is named.
        var other = Walk.Copy();
        var arm = other.Skeleton.IndexOf(BodyRole.ForearmL);
        other.RotationsAt(end)[arm] = Quaternion.Normalize(
            other.RotationsAt(start)[arm] * Quaternion.CreateFromAxisAngle(Vector3.UnitY, .5f)
        );
        var told = LoopPoses.Of(other, start, end);
        var worst = Enumerable.Range(0, told.Roles.Count).MaxBy(k => told.Degrees[k]);
        Assert.Contains(told.Roles[worst], new[] { BodyRole.ForearmL, BodyRole.HandL });
        Assert.InRange(told.Degrees[worst], 20, 40);
        Assert.All(Enumerable.Range(0, told.Roles.Count), k => Assert.InRange(LoopPoses.Of(Walk, start, start).Millimetres(k), 0, 1e-3));
    }
}
