using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

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
        var carried = SceneCatalog.Perform("crate-carry", HarbourCast.Ines, 1, 60);
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

    [Fact]
    public void A_hand_that_passes_by_or_rests_holds_nothing()
    {
        var carried = SceneCatalog.Perform("crate-carry", HarbourCast.Ines, 1, 60);
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
