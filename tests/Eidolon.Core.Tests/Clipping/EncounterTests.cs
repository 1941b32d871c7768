using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Clipping;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Markers;
using Eidolon.Core.Quality;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Clipping;

/// <summary>Figures that go into each other or into a prop are found over the whole motion; what only touches is not.</summary>
public sealed class EncounterTests
{
    private static readonly Skeleton Body = Anthropometry.Body(1.7f);

    private static Motion Standing(Vector3 at, int frames = 60)
    {
        var motion = new Motion(Body, 60, frames);
        var root = Body.IndexOf(BodyRole.Pelvis);
        for (var f = 0; f < frames; f++)
        {
            for (var j = 0; j < Body.Count; j++)
            {
                motion.RotationsAt(f)[j] = Body[j].RestRotation;
                motion.TranslationsAt(f)[j] = Body[j].Offset + (j == root ? at : Vector3.Zero);
            }
        }

        return motion;
    }

    private static EncounterBody Of(string name, Motion motion) => EncounterBody.Of(name, motion, null);

    private static PropPlaces Places(Func<int, Vector3> at, int frames = 60) =>
        new(60, [.. Enumerable.Range(0, frames).Select(at)], [.. Enumerable.Repeat(Quaternion.Identity, frames)]);

    private static readonly EncounterProp Crate = new("Crate", Places(_ => new(0, 0, 5)), new(-.2f), new(.2f));

    [Fact]
    public void Two_figures_in_each_other_are_told_once_with_parts_and_depth()
    {
        var one = Of("Stevedore", Standing(Vector3.Zero));
        Assert.Empty(EncounterMeasure.Findings([one, Of("Lamplighter", Standing(new(0, 0, .6f)))], []));
        var close = EncounterMeasure.Findings([one, Of("Lamplighter", Standing(new(0, 0, .12f)))], []);
        Assert.All(close, f => Assert.Equal((0, 0, 59), (f.Body, f.Finding.Start, f.Finding.End)));
        var deepest = close.MaxBy(f => f.Finding.Measure).Finding;
        Assert.Equal(("encounter", Severity.MustFix), (deepest.Kind, deepest.Severity));
        Assert.StartsWith("Stevedore, ", deepest.Subject, StringComparison.Ordinal);
        Assert.StartsWith("Lamplighter's ", deepest.Other, StringComparison.Ordinal);
        // Two characters of one performer are a choice: nobody walks into himself.
        var other = Of("Lamplighter", Standing(new(0, 0, .12f)));
        Assert.Empty(EncounterMeasure.Findings([one with { By = 3 }, other with { By = 3 }], []));
        Assert.NotEmpty(EncounterMeasure.Findings([one with { By = 3 }, other with { By = 4 }], []));
        // Two trunks of the same person, 12 cm apart.
        var pelvis = BodyVolumes.OfProportions(Body).All.Max(v => v.Radius);
        Assert.InRange(deepest.Measure, 60, (((2 * pelvis) - .12f) * 1000) + 3);
    }

    [Fact]
    public void A_crate_that_goes_through_the_chest_is_told_while_it_is_there_and_hands_on_it_are_not()
    {
        var stood = Standing(Vector3.Zero);
        var body = Of("Stevedore", stood);
        var chest = body.Places[Body.IndexOf(BodyRole.Chest)];
        // It comes from ahead, is in the chest between frames 20 and 39, and goes.
        var through = Crate with
        {
            Places = Places(f => f is >= 20 and < 40 ? chest + new Vector3(0, 0, .25f) : chest + new Vector3(0, 0, 2)),
        };
        var found = EncounterMeasure.Findings([body], [through]);
        var finding = Assert.Single(found).Finding;
        Assert.Equal((20, 39, "the crate"), (finding.Start, finding.End, finding.Other));
        Assert.Contains("deepest at ", finding.Message, StringComparison.Ordinal);
        // In the hand it is held.
        var hand = body.Places[Body.IndexOf(BodyRole.HandL)];
        var held = Crate with { Low = new(-.06f), High = new(.06f), Places = Places(_ => hand) };
        Assert.Empty(EncounterMeasure.Findings([body], [held]));
        // Of a pole its markers do not say how thick it is: nothing is told.
        var pole = through with { Low = new(-.2f, -1, -.2f), High = new(.2f, 1, .2f) };
        Assert.True(pole.IsThin && !through.IsThin);
        Assert.Empty(EncounterMeasure.Findings([body], [pole]));
        // Not seen, it is nowhere.
        Assert.Empty(EncounterMeasure.Findings([body], [Crate with { Places = Places(_ => new(float.NaN)) }]));
        // Short breaks are one Finding.
        var flickers = Crate with { Places = Places(f => f % 5 == 0 ? chest + new Vector3(0, 0, 2) : chest + new Vector3(0, 0, .25f)) };
        Assert.Single(EncounterMeasure.Findings([body], [flickers]));
    }

    [Fact]
    public void Two_carriers_of_other_sizes_with_their_hands_on_the_crate_are_left_in_peace()
    {
        var carried = Acts.Perform("crate-carry", HarbourCast.Ines, 1, 60);
        var prop = carried.Props[0];
        var places = new PropPlaces(60, [.. prop.Places], [.. prop.Turns]);
        EncounterBody[] bodies =
        [
            .. carried
                .Actors.Zip(["Lamplighter", "Stevedore"])
                .Select(c =>
                {
                    var file = GltfReader.GltfBindingOf(GltfReader.Open(HarbourCharacters.Build(c.Second), c.Second), c.Second);
                    var character = RoleFinder.Assign(file.Skeleton, null, c.Second);
                    var setup = GripFinder.Meet(new RetargetSetup(), GripFinder.Find(c.First.Motion, [(prop.Body, places)]), 60);
                    return EncounterBody.Of(
                        c.Second,
                        Retargeter.Retarget(c.First.Motion, character, setup).Motion,
                        VolumeFitter.Fit(character, GltfSkinPoints.Of(file))
                    );
                }),
        ];
        var found = EncounterMeasure.Findings(bodies, [EncounterProp.Of("Crate", places, prop.Body)]);
        Assert.True(found.All(f => f.Finding.Severity != Severity.MustFix), string.Join("\n", found.Select(f => f.Finding)));
        Assert.True(found.Count <= 6, string.Join("\n", found.Select(f => f.Finding)));
    }
}
