using System.Numerics;
using Eidolon.Core.Characters.Binding;
using Eidolon.Core.Skeletons;
using Eidolon.Testing;
using Xunit;

namespace Eidolon.Core.Tests.Characters.Binding;

/// <summary>Weights of bare meshes, against the ones their makers gave them.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public class BinderTests
{
    [Theory]
    [InlineData("1.71", 68)]
    [LongData("1.20", 0)]
    [LongData("Stevedore", 0)]
    [InlineData("Lamplighter", 0)]
    [LongData("Harbour Master", 0)]
    public void No_vertex_follows_the_wrong_limb(string name, float lowered)
    {
        var (mesh, joints) = BareFigures.Standing(name, lowered);
        var (skeleton, figure) = BareFigures.Of(name);
        var skin = MeshBinder.Bind(mesh, SkeletonPlacer.Place(mesh));
        var tall = mesh.Positions.Max(p => p.Y) - mesh.Positions.Min(p => p.Y);
        var middle = (joints[BodyRole.ThighL] + joints[BodyRole.ThighR]) / 2;
        var across = Vector3.Normalize(joints[BodyRole.ThighL] - joints[BodyRole.ThighR]);
        var at = 0;
        foreach (var s in figure.Skins)
        {
            // Cloth that hangs from the waist lies on both legs.
            var hangs = s.Material.Name is "coat" or "lining" or "hide_apron";
            for (var v = 0; v < s.Positions.Length; v++, at++)
            {
                var w = skin.Weights[at];
                Assert.InRange(w.X + w.Y + w.Z + w.W, .9999f, 1.0001f);
                var truth = Limb(RoleOf(skeleton, figure, s.Joints[v].A));
                foreach (var (joint, weight) in Each(skin, at))
                {
                    var found = Limb(PlacedSkeleton.Joints[joint].Role);
                    // Left and right meet at the middle; what hangs from the trunk may go with a limb it lies on.
                    if (weight < .1f || (hangs && truth[..3] == found[..3]) || truth == found || truth == "trunk" || found == "trunk")
                    {
                        continue;
                    }

                    var off = MathF.Abs(Vector3.Dot(mesh.Positions[at] - middle, across));
                    Assert.True(
                        truth[..3] == found[..3] && off < (weight < .2f ? .075f : .035f) * tall,
                        $"{s.Material.Name} of the {truth} follows the {found} by {weight:0.00}, {off / tall * 100:0.0} % from the middle"
                    );
                }
            }
        }
    }

    [Fact]
    public void Weights_agree_with_the_makers_own_where_no_two_bones_meet()
    {
        var (mesh, _) = BareFigures.Standing("1.71", 0);
        var (skeleton, figure) = BareFigures.Of("1.71");
        var skin = MeshBinder.Bind(mesh, SkeletonPlacer.Place(mesh));
        var (at, alike, all) = (0, 0, 0);
        foreach (var s in figure.Skins)
        {
            for (var v = 0; v < s.Positions.Length; v++, at++)
            {
                var role = RoleOf(skeleton, figure, s.Joints[v].A);
                if (s.Weights[v].X > .97f && BodyRoles.Stem(role) is "Forearm" or "Shin" or "Thigh" or "UpperArm" or "Head" or "Foot")
                {
                    all++;
                    alike += PlacedSkeleton.Joints[skin.Joints[at].A].Role == role ? 1 : 0;
                }
            }
        }

        Assert.True(all > 3000);
        Assert.InRange(alike / (double)all, .97, 1);
    }

    [Fact]
    public void Small_parts_apart_follow_one_joint_whole()
    {
        var (mesh, joints) = BareFigures.Standing("1.71", 0);
        // A button before the breast, standing off the cloth.
        var at = joints[BodyRole.Chest] + new Vector3(.03f, 0, .16f);
        var n = mesh.Positions.Length;
        var with = new BareMesh(
            [.. mesh.Positions, at, at + (Vector3.UnitX * .012f), at + (Vector3.UnitY * .012f), at + (Vector3.UnitZ * .004f)],
            [.. mesh.Triangles, n, n + 1, n + 2, n, n + 3, n + 1, n, n + 2, n + 3, n + 1, n + 3, n + 2]
        );
        var skin = MeshBinder.Bind(with, SkeletonPlacer.Place(mesh));
        var part = Assert.Single(skin.LooseParts);
        Assert.Equal(4, part.Vertices);
        Assert.All(Enumerable.Range(n, 4), i => Assert.Equal((part.Joint, Vector4.UnitX), (skin.Joints[i].A, skin.Weights[i])));
        Assert.Equal(BodyRole.Chest, PlacedSkeleton.Joints[part.Joint].Role);
    }

    [Fact]
    public void Corners_of_one_place_move_alike_and_a_cancelled_bind_stops()
    {
        var (mesh, _) = BareFigures.Standing("1.20", 0);
        // Every triangle with corners of its own, as where normals are hard.
        var split = new BareMesh([.. mesh.Triangles.Select(i => mesh.Positions[i])], [.. Enumerable.Range(0, mesh.Triangles.Length)]);
        var placed = SkeletonPlacer.Place(mesh);
        var (whole, cut) = (MeshBinder.Bind(mesh, placed), MeshBinder.Bind(split, placed));
        for (var k = 0; k < mesh.Triangles.Length; k += 101)
        {
            Assert.InRange((whole.Weights[mesh.Triangles[k]] - cut.Weights[k]).Length(), 0, .02f);
        }

        using var stop = new CancellationTokenSource();
        stop.Cancel();
        Assert.Throws<OperationCanceledException>(() => MeshBinder.Bind(mesh, placed, null, stop.Token));
    }

    private static IEnumerable<(int Joint, float Weight)> Each(SkinWeights skin, int v)
    {
        var (j, w) = (skin.Joints[v], skin.Weights[v]);
        return [(j.A, w.X), (j.B, w.Y), (j.C, w.Z), (j.D, w.W)];
    }

    private static BodyRole RoleOf(Skeleton skeleton, Core.Characters.SkinnedFigure figure, int bone)
    {
        var joint = bone < skeleton.Count ? bone : figure.Helpers[bone - skeleton.Count].Joint;
        while (skeleton[joint].Role is null)
        {
            joint = skeleton.Parents[joint];
        }

        return skeleton[joint].Role!.Value;
    }

    private static string Limb(BodyRole role) =>
        BodyRoles.Section(role) switch
        {
            BodySection.Leg => $"leg {BodyRoles.Side(role)}",
            BodySection.Arm or BodySection.Hand when BodyRoles.Stem(role) != "Clavicle" => $"arm {BodyRoles.Side(role)}",
            _ => "trunk",
        };
}
