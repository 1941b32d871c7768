using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Tests.Skeletons;

/// <summary>Bones by their own names and lengths, and against another body's.</summary>
public sealed class BoneSizeTests
{
    [Fact]
    public void A_bone_is_called_by_its_own_name_and_measured_from_joint_to_joint()
    {
        var s = Anthropometry.Body(1.7f);
        var bones = BoneSize.Of(s);
        Assert.Equal(
            ["trunk", "neck", "collarbone", "upper arm", "forearm", "half hips", "thigh", "shin", "foot"],
            bones.Select(b => b.Name)
        );
        var arm = bones.Single(b => b.Name == "upper arm");
        Assert.Equal(s[s.IndexOf(BodyRole.ForearmL)].Offset.Length(), arm.Left!.Value, 5);
        var hips = bones.Single(b => b.Name == "half hips");
        Assert.Equal(
            (s.RestPositions[s.IndexOf(BodyRole.ThighL)] - s.RestPositions[s.IndexOf(BodyRole.ThighR)]).Length() / 2,
            hips.Right!.Value,
            5
        );
        Assert.Null(bones[0].Right);
    }

    [Fact]
    public void Helper_joints_between_do_not_shorten_a_bone()
    {
        var s = Anthropometry.Body(1.7f);
        var at = s.IndexOf(BodyRole.ForearmR);
        Joint[] joints =
        [
            .. s.Joints.Take(at),
            new Joint("twist", s[at].Parent, s[at].Offset * 0.5f),
            s[at] with
            {
                Parent = at,
                Offset = s[at].Offset * 0.5f,
            },
            .. s.Joints.Skip(at + 1).Select(j => j with { Parent = j.Parent >= at ? j.Parent + 1 : j.Parent }),
        ];
        var bone = BoneSize.Of(new Skeleton(joints)).Single(b => b.Name == "upper arm");
        Assert.Equal(bone.Left!.Value, bone.Right!.Value, 5);
    }

    [Fact]
    public void Another_body_is_longer_by_per_cent_of_this_one()
    {
        var s = Anthropometry.Body(1.6f);
        var tall = new Skeleton([.. s.Joints.Select(j => j with { Offset = j.Offset * 1.25f })]);
        foreach (var (own, other) in BoneSize.Of(s).Zip(BoneSize.Of(tall)))
        {
            Assert.Equal(25, own.PerCentOf(other)!.Value, 3);
            Assert.Equal(-20, other.PerCentOf(own)!.Value, 3);
        }

        Assert.Null(BoneSize.Of(s)[0].PerCentOf(null));
        Assert.Empty(BoneSize.Of(new Skeleton([new Joint("stone", -1, Vector3.Zero)])));
    }
}
