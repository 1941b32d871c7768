using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Xunit.Abstractions;

namespace Eidolon.Core.Tests.Retargeting;

/// <summary>A character driven frame by frame against the retarget of the whole take.</summary>
public sealed class LiveRetargetTests(ITestOutputHelper output)
{
    private static Skeleton Character(string name) =>
        RoleFinder.Assign(GltfReader.GltfBindingOf(GltfReader.Open(HarbourCharacters.Build(name), name), name).Skeleton, null, name);

    private static Motion Live(Motion source, Skeleton target)
    {
        var live = new LiveRetarget(source.Skeleton, target);
        var motion = new Motion(target, source.FrameRate, source.FrameCount);
        for (var f = 0; f < source.FrameCount; f++)
        {
            live.Step(source.TranslationsAt(f)[0], source.RotationsAt(f), f / source.FrameRate);
            live.Turns.Span.CopyTo(motion.RotationsAt(f));
            var t = motion.TranslationsAt(f);
            for (var j = 0; j < target.Count; j++)
            {
                t[j] = target[j].Role == BodyRole.Pelvis ? live.Root : target[j].Offset;
            }
        }

        return motion;
    }

    [Theory]
    [InlineData("Lamplighter", "lamp-walk")]
    [InlineData("Stevedore", "haul-rope")]
    public void Feet_stand_where_they_came_down_and_the_body_is_that_of_the_whole_retarget(string name, string scene)
    {
        var performance = Acts.Perform(scene, HarbourCast.Ines, 1, 60);
        var source = performance.Actors[0].Motion;
        var target = Character(name);
        var live = Live(source, target);
        var whole = Retargeter.Retarget(source, target).Motion;
        var (a, b) = (ForwardKinematics.WorldPositions(live), ForwardKinematics.WorldPositions(whole));
        var performed = ForwardKinematics.WorldPositions(source);
        double worst = 0,
            apart = 0;
        foreach (var plant in performance.Actors[0].Plants.Where(p => p.End - p.Start > 24))
        {
            var foot = target.IndexOf(plant.Foot);
            var own = source.Skeleton.IndexOf(plant.Foot);
            Vector3 Of(Vector3[] places, int joints, int joint, int frame) => places[(frame * joints) + joint] with { Y = 0 };
            for (var f = plant.Start + 9; f < plant.End - 6; f++)
            {
                // The ankle of a standing foot moves as the heel rises: what it moves more than the performer's is slide.
                var moved = Vector3.Distance(Of(a, target.Count, foot, plant.Start + 9), Of(a, target.Count, foot, f));
                var truly = Vector3.Distance(
                    Of(performed, source.Skeleton.Count, own, plant.Start + 9),
                    Of(performed, source.Skeleton.Count, own, f)
                );
                worst = Math.Max(worst, moved - truly);
            }
        }

        for (var k = 0; k < a.Length; k++)
        {
            apart += Vector3.DistanceSquared(a[k], b[k]);
        }

        apart = Math.Sqrt(apart / a.Length);
        output.WriteLine($"{name}, {scene}: a standing foot slides {worst * 1000:0.0} mm, {apart * 1000:0.0} mm from the whole retarget");
        Assert.True(worst < 0.008, $"{worst * 1000:0.0} mm");
        Assert.True(apart < 0.02, $"{apart * 1000:0.0} mm");
    }

    [Fact]
    public void No_joint_jumps_where_a_foot_is_taken_and_let_go_and_a_gap_begins_anew()
    {
        var source = Acts.Perform("lamp-walk", HarbourCast.Tobi, 1, 60).Actors[0].Motion;
        var target = Character("Lamplighter");
        var live = Live(source, target);
        static float Most(Motion m)
        {
            var most = 0f;
            for (var k = m.Skeleton.Count; k < m.Rotations.Length; k++)
            {
                most = MathF.Max(most, Eidolon.Core.Geometry.Rotations.Angle(m.Rotations[k - m.Skeleton.Count], m.Rotations[k]));
            }

            return most;
        }

        var (own, driven) = (Most(source), Most(live));
        output.WriteLine($"{driven * 57.3:0}° a frame, the performer {own * 57.3:0}°");
        Assert.True(driven < own * 1.3f, $"{driven * 57.3:0}°, the performer {own * 57.3:0}°");
        var gap = new LiveRetarget(source.Skeleton, target);
        gap.Step(source.TranslationsAt(0)[0], source.RotationsAt(0), 0);
        var far = source.TranslationsAt(0)[0] + new Vector3(3, 0, 0);
        gap.Step(far, source.RotationsAt(0), 5);
        var after = gap.Root;
        var fresh = new LiveRetarget(source.Skeleton, target);
        fresh.Step(far, source.RotationsAt(0), 0);
        Assert.True(Vector3.Distance(fresh.Root, after) < 1e-4f);
    }
}
