using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Clipping;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.Testing;

namespace Eidolon.Core.Tests.Retargeting;

/// <summary>Hands that hold props: found, and held on characters of other sizes.</summary>
public sealed class GripTests
{
    private static Skeleton Character(string name) =>
        RoleFinder.Assign(
            GltfReader.GltfBindingOf(GltfReader.Open(HarbourCharacters.Build(name), name + ".glb"), name).Skeleton,
            null,
            name
        );

    private static (RigidBody Body, PropPlaces Places) Prop(Performance performed, int index)
    {
        var prop = performed.Props[index];
        return (prop.Body, new PropPlaces(performed.Actors[0].Motion.FrameRate, [.. prop.Places], [.. prop.Turns]));
    }

    [Fact]
    public void Four_hands_of_characters_of_other_sizes_stay_on_the_crate()
    {
        var carried = Acts.Perform("crate-carry", HarbourCast.Ines, 1, 60);
        var crate = Prop(carried, 0);
        foreach (var (actor, character) in carried.Actors.Zip(["Lamplighter", "Stevedore"]))
        {
            var grips = GripFinder.Find(actor.Motion, [crate]);
            Assert.Equal([BodyRole.HandL, BodyRole.HandR], grips.Select(g => g.Hand).Distinct().Order());
            var setup = GripFinder.Meet(new RetargetSetup(), grips, 60);
            Assert.False(setup.ScaleTravel);
            var (_, report) = Retargeter.Retarget(actor.Motion, Character(character), setup);
            foreach (var grip in grips)
            {
                // Long enough to carry it somewhere, and there within 5 mm all the while.
                Assert.True(grip.End - grip.Start > 120, $"{grip}");
                var worst = report.Drift[grip.Hand][grip.Start..(grip.End + 1)].Max();
                Assert.True(worst <= 5, $"{character} {grip.Hand} {worst:0.0} mm");
            }
        }
    }

    [Theory]
    [LongData("Lamplighter", 0)]
    [InlineData("Stevedore", 1)]
    public void Fingers_close_until_they_lie_on_the_crate_and_open_again(string name, int actor)
    {
        var carried = Acts.Perform("crate-carry", HarbourCast.Ines, 1, 60);
        var (body, places) = Prop(carried, 0);
        var character = Character(name);
        var grips = GripFinder.Find(carried.Actors[actor].Motion, [(body, places)]);
        var (motion, _) = Retargeter.Retarget(carried.Actors[actor].Motion, character, GripFinder.Meet(new RetargetSetup(), grips, 60));
        var box = EncounterProp.Of("Crate", places, body);
        var closed = grips.Select(g => GripPose.Fit(motion, g.Hand, g.Start, g.End, box)).ToList();
        Assert.All(closed, c => Assert.All(c.Fingers, f => Assert.InRange(f, 0, 1)));
        var held = GripPose.Apply(motion, closed);
        var (before, after) = (ForwardKinematics.WorldPositions(motion), ForwardKinematics.WorldPositions(held));
        var n = character.Count;
        foreach (var grip in grips)
        {
            var side = BodyRoles.Side(grip.Hand);
            var middle = (grip.Start + grip.End) / 2;
            float Off(Vector3[] world, int f, BodyRole role) =>
                box.Signed(
                    Vector3.Transform(world[(f * n) + character.IndexOf(role)] - places.Positions[f], Quaternion.Conjugate(places.Turns[f]))
                );
            for (var finger = 0; finger < 5; finger++)
            {
                var tip = Eidolon.Core.Hands.HandShape.Joint(side, finger, 3);
                // Not in the crate, unless it was already with the fingers straight.
                Assert.True(
                    Off(after, middle, tip) > Math.Min(-.002f, Off(before, middle, tip) - .002f),
                    $"{tip} {Off(after, middle, tip)}"
                );
            }

            // Nothing but fingers moves, and before and after the grip nothing at all.
            foreach (var f in new[] { 0, middle, motion.FrameCount - 1 })
            {
                for (var j = 0; j < n; j++)
                {
                    var fingers = character[j].Role is { } r && BodyRoles.IsFinger(r);
                    if (!fingers)
                    {
                        Assert.InRange(
                            Vector3.Distance(before[(f * n) + j], after[(f * n) + j]),
                            0,
                            .25f * (Under(character, j) ? 1 : 1e-4f)
                        );
                    }
                }
            }
        }

        var free = Enumerable.Range(0, motion.FrameCount).First(f => grips.All(g => f < g.Start - 20 || f > g.End + 20));
        Assert.Equal(motion.RotationsAt(free).ToArray(), held.RotationsAt(free).ToArray());
    }

    /// <summary>A joint that hangs on a finger.</summary>
    private static bool Under(Skeleton s, int joint)
    {
        for (var j = s.Parents[joint]; j >= 0; j = s.Parents[j])
        {
            if (s[j].Role is { } r && BodyRoles.IsFinger(r))
            {
                return true;
            }
        }

        return false;
    }

    [Fact]
    public void Closed_fingers_come_nearer_to_the_palm_and_a_thin_pole_is_held_tighter_than_a_thick_one()
    {
        var character = Character("Stevedore");
        var motion = Retargeter.Retarget(Acts.Perform("lamp-walk", HarbourCast.Tobi, 1, 60).Actors[0].Motion, character).Motion;
        var n = character.Count;
        Vector3 At(Vector3[] world, BodyRole role) => world[(30 * n) + character.IndexOf(role)];
        var (open, fist) = (
            ForwardKinematics.WorldPositions(GripPose.Apply(motion, [new(BodyRole.HandR, 0, 60, [0, 0, 0, 0, 0])])),
            ForwardKinematics.WorldPositions(GripPose.Apply(motion, [new(BodyRole.HandR, 0, 60, [1, 1, 1, 1, 1])]))
        );
        foreach (var role in new[] { BodyRole.IndexR3, BodyRole.MiddleR3, BodyRole.RingR3, BodyRole.LittleR3 })
        {
            Assert.True(
                Vector3.Distance(At(fist, role), At(fist, BodyRole.HandR))
                    < .85f * Vector3.Distance(At(open, role), At(open, BodyRole.HandR))
            );
        }

        // A pole across the palm, thin and thick.
        var turns = new Quaternion[motion.Rotations.Length];
        var world = ForwardKinematics.WorldPositions(motion, turns);
        var knuckle = (At(world, BodyRole.IndexR1) + At(world, BodyRole.LittleR1)) / 2;
        var across = Vector3.Normalize(At(world, BodyRole.LittleR1) - At(world, BodyRole.IndexR1));
        var along = Vector3.Normalize(At(open, BodyRole.MiddleR3) - At(open, BodyRole.MiddleR1));
        var palm = Vector3.Normalize(At(fist, BodyRole.MiddleR3) - At(open, BodyRole.MiddleR3));
        palm = Vector3.Normalize(palm - (along * Vector3.Dot(palm, along)));
        float Curl(float radius)
        {
            var turn = Rotations.Between(Vector3.UnitX, across);
            var places = new PropPlaces(
                60,
                [.. Enumerable.Repeat(knuckle + (along * .02f) + (palm * (radius + .012f)), 60)],
                [.. Enumerable.Repeat(turn, 60)]
            );
            return GripPose
                .Fit(
                    motion,
                    BodyRole.HandR,
                    30,
                    30,
                    new EncounterProp("Pole", places, new(-.5f, -radius, -radius), new(.5f, radius, radius))
                )
                .Fingers.Skip(1)
                .Average();
        }

        Assert.True(Curl(.015f) > Curl(.05f) + .1f, $"{Curl(.015f)} and {Curl(.05f)}");
    }

    [Fact]
    public void A_hand_that_passes_by_or_rests_holds_nothing()
    {
        var carried = Acts.Perform("crate-carry", HarbourCast.Ines, 1, 60);
        var crate = Prop(carried, 0);
        // The crate where it stood at first all through: nobody carries it.
        var still = crate.Places with
        {
            Positions = [.. crate.Places.Positions.Select(_ => crate.Places.Positions[0])],
            Turns = [.. crate.Places.Turns.Select(_ => crate.Places.Turns[0])],
        };
        Assert.Empty(GripFinder.Find(carried.Actors[0].Motion, [(crate.Body, still)]));
        // Never seen: nothing can be said.
        var unseen = crate.Places with { Positions = [.. crate.Places.Positions.Select(_ => new Vector3(float.NaN))] };
        Assert.Empty(GripFinder.Find(carried.Actors[0].Motion, [(crate.Body, unseen)]));
        var setup = GripFinder.Meet(new RetargetSetup(), [], 60);
        Assert.True(setup.ScaleTravel);
    }

    [Fact]
    public void Keys_of_grips_are_read_back_and_never_cross()
    {
        var setup = GripFinder.Meet(
            new RetargetSetup(),
            [new(BodyRole.HandL, 0, 10, 100), new(BodyRole.HandL, 1, 110, 300), new(BodyRole.HandL, 0, 500, 600)],
            100
        );
        var keys = setup.Hold(BodyRole.HandL).Keys;
        Assert.True(keys.Zip(keys.Skip(1)).All(k => k.First.Frame < k.Second.Frame));
        foreach (var f in new[] { 10, 50, 100, 110, 200, 300, 500, 600 })
        {
            Assert.Equal(1, setup.Hold(BodyRole.HandL).At(f).Place);
        }

        foreach (var f in new[] { 400, 640 })
        {
            Assert.Equal(0, setup.Hold(BodyRole.HandL).At(f).Place);
        }

        var read = RetargetOperation.SetupFrom(RetargetOperation.Parameters(setup));
        Assert.Equal(keys, read.Hold(BodyRole.HandL).Keys);
        Assert.False(read.ScaleTravel);
    }
}
