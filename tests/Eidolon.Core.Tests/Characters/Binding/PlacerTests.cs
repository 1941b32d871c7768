using System.Numerics;
using Eidolon.Core.Characters.Binding;
using Eidolon.Core.Skeletons;
using Eidolon.Testing;
using Xunit;

namespace Eidolon.Core.Tests.Characters.Binding;

/// <summary>A skeleton found in a mesh against the one the mesh was made around.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public class PlacerTests
{
    /// <summary>Arms anywhere between level and hanging, facing any way, of any size and unit; clothes that hide legs, arms and head.</summary>
    [Theory]
    [LongData("1.20", 0, 0, 1)]
    [LongData("1.71", 0, 90, 1)]
    [LongData("1.71", 45, 180, 1)]
    [InlineData("1.71", 68, -30, 1)]
    [LongData("2.05", 30, 10, 39.37f)]
    [LongData("Stevedore", 0, 0, 1)]
    [LongData("Stevedore", 55, 130, 1)]
    [LongData("Lamplighter", 0, -90, 1)]
    [InlineData("Lamplighter", 50, 45, .01f)]
    [InlineData("Harbour Master", 0, 0, 1)]
    public void Joints_are_found_where_the_mesh_was_made_around_them(string name, float lowered, float heading, float scale)
    {
        var (mesh, joints) = BareFigures.Standing(name, lowered, heading, scale);
        var placed = SkeletonPlacer.Place(mesh);
        var tall = mesh.Positions.Max(p => p.Y) - mesh.Positions.Min(p => p.Y);
        foreach (var role in BodyRoles.Required)
        {
            var off = (placed.Places[role] - joints[role]).Length() / tall;
            // Under an apron or a coat nobody sees where the legs part; then it says so.
            var hidden = placed.Doubts.Count > 0 && BodyRoles.Stem(role) is "Pelvis" or "Thigh" or "Shin";
            Assert.True(off < (hidden ? .055f : .032f), $"{role} is {off * 100:0.0} % of the height off");
        }

        var skeleton = placed.ToSkeleton();
        Assert.All(PlacedSkeleton.Joints, j => Assert.Equal(j.Role, skeleton[skeleton.IndexOf(j.Role)].Role));
        Assert.InRange(
            (skeleton.RestPositions[skeleton.IndexOf(BodyRole.HandL)] - placed.Places[BodyRole.HandL]).Length(),
            0,
            1e-4f * tall
        );
    }

    [Fact]
    public void Joints_put_by_hand_stay_and_take_their_ends_along()
    {
        var (mesh, _) = BareFigures.Standing("1.71", 0);
        var found = SkeletonPlacer.Place(mesh);
        var moved = found.Places[BodyRole.HandL] + new Vector3(.05f, .02f, 0);
        var placed = SkeletonPlacer.Place(mesh, new Dictionary<BodyRole, Vector3> { [BodyRole.HandL] = moved });
        Assert.Equal(moved, placed.Places[BodyRole.HandL]);
        Assert.Equal(found.Places[BodyRole.HandR], placed.Places[BodyRole.HandR]);
        Assert.InRange((placed.Ends[BodyRole.HandL] - found.Ends[BodyRole.HandL] - new Vector3(.05f, .02f, 0)).Length(), 0, 1e-5f);
    }

    [Fact]
    public void Where_every_joint_is_given_the_shape_is_not_asked()
    {
        var (mesh, _) = BareFigures.Standing("1.71", 0);
        var places = SkeletonPlacer.Place(mesh).Places;
        // Half a figure: its shape alone would be refused.
        var half = mesh with { Triangles = mesh.Triangles[..(mesh.Triangles.Length / 12 * 3)] };
        Assert.Equal(places, SkeletonPlacer.Place(half, places).Places);
    }

    [Fact]
    public void What_is_no_standing_person_is_refused_with_the_reason()
    {
        var (mesh, _) = BareFigures.Standing("1.71", 0);
        string Said(BareMesh m) => Assert.Throws<RefusedException>(() => SkeletonPlacer.Place(m)).Message;
        BareMesh By(Func<Vector3, Vector3> put) => mesh with { Positions = Array.ConvertAll(mesh.Positions, p => put(p)) };
        Assert.Contains("does not stand upright", Said(By(p => new(p.X, p.Z, -p.Y))), StringComparison.Ordinal);
        Assert.Contains("no surface", Said(mesh with { Triangles = [] }), StringComparison.Ordinal);
        var (hanging, _) = BareFigures.Standing("1.71", 88);
        Assert.Contains("arm that is apart", Said(hanging), StringComparison.Ordinal);
        var box = new BareMesh(
            [
                new(0, 0, 0),
                new(.4f, 0, 0),
                new(.4f, 1.8f, 0),
                new(0, 1.8f, 0),
                new(0, 0, .3f),
                new(.4f, 0, .3f),
                new(.4f, 1.8f, .3f),
                new(0, 1.8f, .3f),
            ],
            [0, 1, 2, 0, 2, 3, 4, 6, 5, 4, 7, 6, 0, 4, 1, 1, 4, 5, 3, 2, 6, 3, 6, 7, 0, 3, 4, 3, 7, 4, 1, 5, 2, 2, 5, 6]
        );
        Assert.Contains("the mesh has no", Said(box), StringComparison.Ordinal);
    }
}
