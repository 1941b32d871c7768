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

    [Fact]
    public void A_missing_role_is_named_not_guessed()
    {
        var legless = new Skeleton(
            Anthropometry.Body(1.7f).Joints.Take(6).Select(j => j with { Role = null, Name = "q" + j.Name.Length + j.Parent })
        );
        Assert.Contains(
            "ThighL",
            Assert.Throws<ArgumentException>(() => RoleFinder.Assign(legless, null, "x")).Message,
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
