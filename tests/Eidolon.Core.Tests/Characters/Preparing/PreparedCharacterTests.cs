using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Characters.Preparing;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.Testing;

namespace Eidolon.Core.Tests.Characters.Preparing;

[Trait(LongRun.Run, LongRun.Whole)]
public sealed class PreparedCharacterTests
{
    private const string Master = "Harbour Master";

    private static readonly Lazy<GltfCharacter> Silent = new(() => GltfCharacter.Open(HarbourCharacters.Build(Master), "master.glb"));

    private static CharacterDraft Draft(params DraftStep[] steps) => CharacterDraft.Empty.With(steps);

    private static CharacterDraft Remedied(params RestRemedy[] remedies) =>
        Draft([new SizeStep(.0254), .. remedies.Select(r => new RemedyStep(r))]);

    [Fact]
    public void A_rig_that_says_nothing_is_told_apart_and_its_unit_proposed()
    {
        var made = Silent.Value.Prepare(CharacterDraft.Empty);
        var truth = HarbourCharacters.Figure(Master).Skeleton.Joints.ToDictionary(j => j.Name, j => j.Role);
        // Every role that was found is the joint's own, fingers too; spine roles may be named otherwise.
        foreach (var (role, joint) in made.Sheet.Roles.Where(r => !BodyRoles.Spine.Contains(r.Key)))
        {
            Assert.Equal(truth[joint], role);
        }

        Assert.Equal(30, made.Sheet.Roles.Keys.Count(BodyRoles.IsFinger));
        Assert.True(made.Sheet.Complete);
        Assert.Equal(RestVerdict.CannotFit, made.After.Verdict);
        Assert.Equal("inches", made.Sizes[0].Unit);
        Assert.InRange(made.Sizes[0].Height, 1.72, 1.84);
    }

    [Fact]
    public void Remedies_make_it_ready_and_the_file_says_so_too()
    {
        var draft = Remedied(RestRemedy.TurnToFace, RestRemedy.ArmL, RestRemedy.ArmR, RestRemedy.Floor);
        var made = Silent.Value.Prepare(draft);
        Assert.True(made.Ready, string.Join("; ", made.Reasons));
        Assert.Equal(3, made.Mended.Count);
        Assert.InRange(made.LowestAfter, -.001f, .001f);
        var again = GltfCharacter.Open(Silent.Value.Write(made), "again.glb");
        Assert.Equal(made.Proposed.Count, again.Skeleton.Count);
        Assert.All(Enumerable.Range(0, again.Skeleton.Count), j =>
            Assert.InRange((again.Skeleton.RestPositions[j] - made.Proposed.RestPositions[j]).Length(), 0, .0005f)
        );
        // The skin went along: it stands on the floor, as wide as straight arms reach, and no vertex is left behind in inches.
        Assert.InRange(again.Skin.Places.Min(p => p.Y), -.01f, .01f);
        Assert.InRange(again.Skin.Places.Max(p => p.Y), 1.7f, 1.95f);
        Assert.InRange(again.Skin.Places.Max(p => p.X) - again.Skin.Places.Min(p => p.X), 1.5f, 2.1f);
        Assert.Equal(RestVerdict.Ready, again.Prepare(CharacterDraft.Empty).After.Verdict);
    }

    [Theory]
    [InlineData(RestRemedy.ArmL, BodyRole.UpperArmL, BodyRole.UpperArmR)]
    [InlineData(RestRemedy.ArmR, BodyRole.UpperArmR, BodyRole.UpperArmL)]
    public void One_arm_is_straightened_and_the_other_stays(RestRemedy remedy, BodyRole straight, BodyRole other)
    {
        var made = Silent.Value.Prepare(Remedied(remedy));
        float Slope(Skeleton s, BodyRole arm)
        {
            var hand = BodyRoles.Side(arm) == 'L' ? BodyRole.HandL : BodyRole.HandR;
            return s.RestPositions[s.IndexOf(hand)].Y - s.RestPositions[s.IndexOf(arm)].Y;
        }

        Assert.InRange(Slope(made.Proposed, straight), -.005f, .005f);
        Assert.Equal(Slope(made.Came, other), Slope(made.Proposed, other), 4);
        // It looks where it looked, and no bone changed its length.
        Assert.True(BodyFacing.Of(made.Proposed)!.Value.Z < -.99f);
        Assert.All(Enumerable.Range(0, made.Came.Count), j =>
            Assert.Equal(made.Came[j].Offset.Length(), made.Proposed[j].Offset.Length(), 5)
        );
    }

    [Fact]
    public void Uneven_limbs_and_collarbones_are_made_alike()
    {
        var body = Anthropometry.Body(1.7f);
        var crooked = new Skeleton(
            body.Joints.Select(j =>
                j.Role switch
                {
                    BodyRole.ForearmL => j with { Offset = j.Offset * 1.1f },
                    BodyRole.ClavicleR => j with { RestRotation = Quaternion.CreateFromAxisAngle(Vector3.UnitZ, .2f) },
                    BodyRole.UpperArmR => j with { RestRotation = Quaternion.CreateFromAxisAngle(Vector3.UnitZ, -.2f) },
                    _ => j,
                }
            )
        );
        var check = RestCheck.Check(crooked);
        Assert.Contains(check.Reasons, r => r.What.Contains("collarbone lies 11° lower", StringComparison.Ordinal));
        Assert.Contains(check.Reasons, r => r.What.StartsWith("upper arms differ by", StringComparison.Ordinal));
        var right = Eidolon.Core.Retargeting.RestStraightening.Straighten(crooked);
        Assert.Empty(RestCheck.Check(right).Reasons);
        Vector3 At(BodyRole r) => right.RestPositions[right.IndexOf(r)];
        Assert.Equal(
            (At(BodyRole.ForearmL) - At(BodyRole.UpperArmL)).Length(),
            (At(BodyRole.ForearmR) - At(BodyRole.UpperArmR)).Length(),
            4
        );
        Assert.Equal(At(BodyRole.UpperArmL).Y - At(BodyRole.ClavicleL).Y, At(BodyRole.UpperArmR).Y - At(BodyRole.ClavicleR).Y, 3);
    }

    [Fact]
    public void A_role_put_right_by_hand_is_mirrored_to_the_other_side_and_taken_back()
    {
        var sheet = Silent.Value.Prepare(CharacterDraft.Empty).Sheet;
        var (shin, thigh) = (sheet.Roles[BodyRole.ShinL], sheet.Roles[BodyRole.ThighL]);
        // The left side is emptied but for one finger, which is given to the thumb's first joint.
        var wrong = Draft(new RoleStep(BodyRole.ShinR, null), new RoleStep(BodyRole.ThighR, null));
        var without = Silent.Value.Prepare(wrong);
        Assert.Equal([BodyRole.ThighR, BodyRole.ShinR], without.Sheet.Missing);
        Assert.Equal(RestVerdict.CannotFit, without.After.Verdict);
        var mirrored = Silent.Value.Prepare(wrong.With(new MirrorStep('L')));
        Assert.Empty(mirrored.Sheet.Missing);
        Assert.Equal(sheet.Roles.OrderBy(r => r.Key), mirrored.Sheet.Roles.OrderBy(r => r.Key));
        // A joint that is given another role loses its own.
        var moved = Silent.Value.Prepare(Draft(new RoleStep(BodyRole.ThighL, shin)));
        Assert.Equal(shin, moved.Sheet.Roles[BodyRole.ThighL]);
        Assert.DoesNotContain(BodyRole.ShinL, moved.Sheet.Roles.Keys);
        Assert.Equal(thigh, Silent.Value.Prepare(Draft(new RoleStep(BodyRole.ThighL, shin)).Back()).Sheet.Roles[BodyRole.ThighL]);
        Assert.Throws<RefusedException>(() => Silent.Value.Prepare(Draft(new RoleStep(BodyRole.Head, "no such joint"))));
    }

    [Theory]
    [InlineData("Stevedore")]
    [InlineData("Lamplighter")]
    [InlineData(Master)]
    public void Fingers_are_told_by_their_shape_alone(string name)
    {
        var rig = HarbourCharacters.Figure(name).Skeleton;
        var bare = new Skeleton(rig.Joints.Select((j, k) => j with { Name = $"{k}", Role = null }));
        var found = RoleFinder.Find(bare).Roles;
        var fingers = rig.Joints.Select((j, k) => (j.Role, k)).Where(x => x.Role is { } r && BodyRoles.IsFinger(r)).ToList();
        Assert.Equal(30, fingers.Count);
        Assert.All(fingers, f => Assert.Equal($"{f.k}", found.GetValueOrDefault(f.Role!.Value)));
    }

    [Fact]
    public void A_body_that_nothing_tells_front_from_back_asks_once_and_takes_the_answer()
    {
        // No toes, no fingers, straight legs, numbers for names, looking to −Z.
        var body = Anthropometry.Body(1.7f).Without(BodyRole.ToesL, BodyRole.ToesR);
        var silent = new Skeleton(
            body.Joints.Select(j => j.Parent < 0 ? j with { RestRotation = Quaternion.CreateFromAxisAngle(Vector3.UnitY, MathF.PI) } : j)
        );
        var numbers = new Skeleton(silent.Joints.Select((j, k) => j with { Name = $"{k:000}", Role = null }));
        var draft = CharacterDraft.Empty;
        RoleSheet Sheet() => RoleSheet.Of(numbers, null, draft.Steps);
        Assert.True(Sheet().SidesAsked);
        draft = draft.With(new SidesStep(true));
        var sheet = Sheet();
        Assert.Empty(sheet.Asked);
        foreach (var role in BodyRoles.Required)
        {
            Assert.Equal($"{silent.IndexOf(role):000}", sheet.Roles[role]);
        }
    }

    [Fact]
    public void A_draft_is_the_same_after_it_was_written_down()
    {
        var draft = Draft(
            new RoleStep(BodyRole.HandL, "011"),
            new RoleStep(BodyRole.Jaw, null),
            new MirrorStep('R'),
            new SidesStep(true),
            new RemedyStep(RestRemedy.Collarbones),
            new SizeStep(.0254)
        );
        Assert.Equal(draft.Steps, CharacterDraftJson.Read(CharacterDraftJson.Write(draft)).Steps);
        Assert.Empty(CharacterDraftJson.Read(string.Empty).Steps);
        foreach (
            var bad in new[]
            {
                "{",
                "[1]",
                "[{}]",
                """[{"role":"Tail"}]""",
                """[{"remedy":"Wings"}]""",
                """[{"size":0}]""",
                """[{"mirror":"C"}]""",
            }
        )
        {
            Assert.Throws<RefusedException>(() => CharacterDraftJson.Read(bad));
        }

        Assert.Throws<RefusedException>(() => Draft([.. Enumerable.Repeat(new MirrorStep('L'), CharacterDraft.MostSteps + 1)]));
    }

    [Fact]
    public void An_untouched_draft_gives_the_very_file_back()
    {
        var glb = HarbourCharacters.Build("Stevedore");
        var file = GltfCharacter.Open(glb, "stevedore.glb");
        Assert.Same(glb, file.Write(file.Prepare(CharacterDraft.Empty)));
    }
}
