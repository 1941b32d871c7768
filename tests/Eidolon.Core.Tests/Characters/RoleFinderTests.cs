using Eidolon.Core.Characters;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;

namespace Eidolon.Core.Tests.Characters;

public sealed class RoleFinderTests
{
    private static Skeleton Character(string name) =>
        GltfReader.GltfBindingOf(GltfReader.Open(HarbourCharacters.Build(name), name + ".glb"), name).Skeleton;

    private static Skeleton Renamed(Skeleton s, Func<int, string> name) =>
        new(s.Joints.Select((j, i) => j with { Name = name(i), Role = null }));

    [Theory]
    [InlineData("Stevedore", BodyRole.HandL, "dock_wrist_l")]
    [InlineData("Stevedore", BodyRole.Chest, "dock_back_03")]
    [InlineData("Stevedore", BodyRole.ForearmTwistR, "dock_lower_arm_twist_r")]
    [InlineData("Lamplighter", BodyRole.ForearmR, "RightElbow")]
    [InlineData("Lamplighter", BodyRole.ShinL, "LeftKnee")]
    [InlineData("Lamplighter", BodyRole.Pelvis, "Pelvis")]
    public void Names_of_many_habits_are_read(string character, BodyRole role, string joint) =>
        Assert.Equal(joint, RoleFinder.Find(Character(character)).Roles[role]);

    [Theory]
    [InlineData("Stevedore")]
    [InlineData("Lamplighter")]
    public void Every_needed_role_is_found_from_shape_alone(string character)
    {
        var named = Character(character);
        var truth = RoleFinder.Find(named).Roles;
        var numbers = Renamed(named, i => $"{i:000}");
        var found = RoleFinder.Find(numbers).Roles;
        foreach (var role in BodyRoles.Required)
        {
            Assert.Equal(named.IndexOf(truth[role]), numbers.IndexOf(found[role]));
        }
    }

    [Theory]
    [InlineData(1.5f, 0.9f)]
    [InlineData(1.7f, 1.0f)]
    [InlineData(2.1f, 1.25f)]
    public void Every_needed_role_is_found_on_bodies_of_many_sizes_without_names(float stature, float arms)
    {
        var body = Anthropometry.Body(stature, arms);
        var found = RoleFinder.Find(Renamed(body, i => $"x{i}")).Roles;
        foreach (var role in BodyRoles.Required)
        {
            Assert.Equal($"x{body.IndexOf(role)}", found[role]);
        }
    }

    [Theory]
    [InlineData("Becken,Brust,Kopf,Oberarm,Unterarm,Handgelenk,Oberschenkel,Unterschenkel,Knöchel", "links", "rechts")]
    [InlineData("bassin,poitrine,tête,bras,avantbras,poignet,cuisse,jambe,pied", "gauche", "droite")]
    [InlineData("cadera,pecho,cabeza,brazo,antebrazo,mano,muslo,pierna,pie", "izq", "der")]
    [InlineData("bacino,torace,testa,braccio,avambraccio,mano,coscia,gamba,piede", "sx", "dx")]
    public void Names_in_other_languages_are_read(string words, string left, string right)
    {
        var of = new[] { "Pelvis", "Chest", "Head", "UpperArm", "Forearm", "Hand", "Thigh", "Shin", "Foot" }
            .Zip(words.Split(','))
            .ToDictionary();
        // Turned to the side and without toes: nothing but the names tells left from right.
        var body = new Skeleton(
            Anthropometry
                .Body(1.6f)
                .Without(BodyRole.ToesL, BodyRole.ToesR)
                .Joints.Select(j => j.Parent < 0 ? j with { RestRotation = Core.Geometry.Rotations.AboutAxis(1, Math.PI / 2) } : j)
        );
        var named = Renamed(body, i =>
        {
            var role = body[i].Role!.Value;
            var side =
                BodyRoles.Side(role) == 'C' ? ""
                : BodyRoles.Side(role) == 'L' ? "_" + left
                : "_" + right;
            return of.TryGetValue(BodyRoles.Stem(role), out var word) ? word + side : $"x{i}";
        });
        var found = RoleFinder.Find(named);
        Assert.Empty(found.Asked);
        foreach (var role in BodyRoles.Required)
        {
            Assert.Equal(body.IndexOf(role), named.IndexOf(found.Roles[role]));
        }
    }

    [Fact]
    public void Whoever_stands_on_all_fours_is_no_figure()
    {
        var joints = new List<Joint>();
        int Add(int parent, float x, float y, float z)
        {
            joints.Add(new Joint($"{joints.Count}", parent, new(x, y, z)));
            return joints.Count - 1;
        }

        var pelvis = Add(-1, 0, .8f, 0);
        var shoulders = Add(Add(Add(pelvis, 0, .02f, .25f), 0, .02f, .25f), 0, .03f, .25f);
        Add(Add(Add(shoulders, 0, .15f, .15f), 0, .1f, .15f), 0, 0, .2f);
        foreach (var (from, side) in new[] { (pelvis, 1), (pelvis, -1), (shoulders, 1), (shoulders, -1) })
        {
            Add(Add(Add(Add(from, .14f * side, -.1f, 0), .02f * side, -.3f, .03f), 0, -.3f, -.03f), 0, -.08f, .1f);
        }

        var dog = new Skeleton(joints);
        Assert.NotEmpty(RoleFinder.Find(dog).Missing);
        Assert.Contains(
            "no joint was found",
            Assert.Throws<RefusedException>(() => RoleFinder.Assign(dog, null, "dog")).Message,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void A_missing_role_is_named_not_guessed()
    {
        var legless = new Skeleton(
            Anthropometry.Body(1.7f).Joints.Take(6).Select(j => j with { Role = null, Name = "q" + j.Name.Length + j.Parent })
        );
        Assert.Contains(
            "ThighL",
            Assert.Throws<RefusedException>(() => RoleFinder.Assign(legless, null, "x")).Message,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void Rest_check_tells_low_arms_and_a_wrong_size()
    {
        Assert.Equal(RestVerdict.Ready, RestCheck.Check(Anthropometry.Body(1.7f)).Verdict);
        var low = new Skeleton(
            Anthropometry
                .Body(1.7f)
                .Joints.Select(j =>
                    j.Role == BodyRole.UpperArmL ? j with { RestRotation = Core.Geometry.Rotations.AboutAxis(2, -0.35) } : j
                )
        );
        var report = RestCheck.Check(low);
        Assert.Equal(RestVerdict.WillDrift, report.Verdict);
        Assert.Contains(report.Reasons, r => r.What.Contains("left arm 20° low", StringComparison.Ordinal));
        Assert.Equal(RestVerdict.CannotFit, RestCheck.Check(Anthropometry.Body(170f)).Verdict);
    }
}
