using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Tests.Skeletons;

public sealed class BodyRoleTests
{
    public static TheoryData<BodyRole> All => [.. Enum.GetValues<BodyRole>()];

    [Theory]
    [InlineData(BodyRole.Pelvis, BodySection.Trunk, "Head and trunk", "Trunk")]
    [InlineData(BodyRole.Root, BodySection.Trunk, "Head and trunk", "Trunk")]
    [InlineData(BodyRole.Chest, BodySection.Trunk, "Head and trunk", "Trunk")]
    [InlineData(BodyRole.NeckLower, BodySection.Head, "Head and trunk", "Head")]
    [InlineData(BodyRole.EyeL, BodySection.Head, "Head and trunk", "Head")]
    [InlineData(BodyRole.Jaw, BodySection.Head, "Head and trunk", "Head")]
    [InlineData(BodyRole.ClavicleL, BodySection.Arm, "Arm L", "Left arm")]
    [InlineData(BodyRole.UpperArmTwistR, BodySection.Arm, "Arm R", "Right arm")]
    [InlineData(BodyRole.ForearmR, BodySection.Arm, "Arm R", "Right arm")]
    [InlineData(BodyRole.HandL, BodySection.Hand, "Hand L", "Left arm")]
    [InlineData(BodyRole.LittleR3, BodySection.Hand, "Hand R", "Right arm")]
    [InlineData(BodyRole.ThumbL1, BodySection.Hand, "Hand L", "Left arm")]
    [InlineData(BodyRole.ThighR, BodySection.Leg, "Leg R", "Right leg")]
    [InlineData(BodyRole.ShinL, BodySection.Leg, "Leg L", "Left leg")]
    [InlineData(BodyRole.FootL, BodySection.Leg, "Leg L", "Left leg")]
    [InlineData(BodyRole.ToesR, BodySection.Leg, "Leg R", "Right leg")]
    public void Every_grouping_of_the_body_is_the_same_one(BodyRole role, BodySection section, string part, string label)
    {
        Assert.Equal(section, BodyRoles.Section(role));
        Assert.Equal(part, BodyRoles.Part(role));
        Assert.Equal(label, LabelOperations.PartOf(role));
        Assert.Contains(label, LabelOperations.Parts);
    }

    [Theory]
    [MemberData(nameof(All))]
    public void A_role_and_its_mirror_are_of_one_kind(BodyRole role)
    {
        var mirror = BodyRoles.Mirror(role);
        Assert.Equal(role, BodyRoles.Mirror(mirror));
        Assert.Equal(BodyRoles.Section(role), BodyRoles.Section(mirror));
        Assert.Equal(BodyRoles.IsFinger(role), BodyRoles.IsFinger(mirror));
        Assert.Equal(BodyRoles.EndsLongBone(role), BodyRoles.EndsLongBone(mirror));
        Assert.Equal(Anthropometry.MassShare(role), Anthropometry.MassShare(mirror));
        Assert.Equal(role == mirror, BodyRoles.Side(role) == 'C');
        if (BodyRoles.Parent(role) is { } parent)
        {
            Assert.Equal(BodyRoles.Mirror(parent), BodyRoles.Parent(mirror));
        }

        if (!BodyRoles.IsFinger(role))
        {
            Assert.Equal(BodyRoles.Stem(role), BodyRoles.Stem(mirror));
            Assert.DoesNotContain(BodyRoles.Stem(role)[^1], BodyRoles.Side(role) == 'C' ? "" : "LR");
        }
    }

    [Fact]
    public void Everything_hangs_from_the_root()
    {
        foreach (var role in Enum.GetValues<BodyRole>())
        {
            var (at, steps) = (role, 0);
            while (BodyRoles.Parent(at) is { } parent)
            {
                at = parent;
                Assert.True(++steps < 20);
            }

            Assert.Equal(BodyRole.Root, at);
        }
    }

    [Theory]
    [InlineData("Forearm", "upper arm")]
    [InlineData("Hand", "forearm")]
    [InlineData("UpperArm", "collarbone")]
    [InlineData("Clavicle", "chest to collarbone")]
    [InlineData("Thigh", "half hips")]
    [InlineData("Shin", "thigh")]
    [InlineData("Foot", "shin")]
    [InlineData("Toes", "foot")]
    [InlineData("SpineLower", "pelvis")]
    [InlineData("SpineUpper", "lower back")]
    [InlineData("Chest", "upper back")]
    [InlineData("Neck", "chest")]
    [InlineData("Head", "neck")]
    [InlineData("Jaw", "Jaw")]
    public void A_bone_has_its_own_name_not_that_of_the_joint_it_ends_at(string stem, string bone) =>
        Assert.Equal(bone, BodyRoles.BoneTo(stem));

    [Fact]
    public void Four_bones_of_a_side_are_long()
    {
        var body = Anthropometry.Body(1.75f);
        var longest = body.Joints.Where(j => j.Parent >= 0).OrderByDescending(j => j.Offset.Length()).Take(8).Select(j => j.Role!.Value);
        Assert.Equal(longest.Order(), body.Joints.Select(j => j.Role!.Value).Where(r => BodyRoles.EndsLongBone(r)).Order());
        Assert.False(BodyRoles.EndsLongBone(null));
    }

    [Theory]
    [InlineData(1.1f)]
    [InlineData(1.75f)]
    [InlineData(2.05f)]
    public void An_average_body_is_as_tall_as_it_says_and_stands_on_the_floor(float stature)
    {
        var body = Anthropometry.Body(stature, 1.1f);
        var head = body.IndexOf(BodyRole.Head);
        Assert.Equal(stature, body.RestPositions[head].Y + body[head].EndSite!.Value.Y, 0.02f * stature);
        foreach (var side in new[] { BodyRole.ToesL, BodyRole.ToesR })
        {
            Assert.InRange(body.RestPositions[body.IndexOf(side)].Y, 0, 0.02f * stature);
        }

        // The T-pose faces +Z with its left to +X, and both sides are alike.
        Assert.True(body.RestPositions[body.IndexOf(BodyRole.HandL)].X > 0.35f * stature);
        Assert.True(body.RestPositions[body.IndexOf(BodyRole.ToesL)].Z > body.RestPositions[body.IndexOf(BodyRole.FootL)].Z);
        foreach (var j in body.Joints)
        {
            var mirror = body.RestPositions[body.IndexOf(BodyRoles.Mirror(j.Role!.Value))];
            Assert.Equal(body.RestPositions[body.IndexOf(j.Role!.Value)] with { X = -mirror.X }, mirror with { X = -mirror.X });
        }

        // Longer arms are longer, nothing else is.
        var usual = Anthropometry.Body(stature);
        Assert.All(Enumerable.Range(1, body.Count - 1), k =>
            Assert.Equal(
                body[k].Role is BodyRole.ForearmL or BodyRole.ForearmR or BodyRole.HandL or BodyRole.HandR ? 1.1f : 1,
                body[k].Offset.Length() / usual[k].Offset.Length(),
                1e-4f
            )
        );
    }

    [Fact]
    public void The_parts_weigh_as_much_as_the_whole() =>
        Assert.Equal(1, Enum.GetValues<BodyRole>().Where(r => r != BodyRole.SpineMid).Sum(Anthropometry.MassShare), 0.03);

    [Fact]
    public void Roles_are_set_by_name_and_found_again()
    {
        var body = Anthropometry.Body(1.7f);
        var one = body.WithRoles(new Dictionary<BodyRole, string> { [BodyRole.Head] = "Neck" });
        Assert.Equal(one.IndexOf("Neck"), one.IndexOf(BodyRole.Head));
        Assert.Equal(-1, one.IndexOf(BodyRole.Pelvis));
        Assert.Equal(-1, one.IndexOf("no such joint"));
        Assert.Equal(body.Children(0).Select(c => body[c].Name).Order(), ["SpineLower", "ThighL", "ThighR"]);
        Assert.Throws<ArgumentException>(() => new Skeleton([]));
    }
}
