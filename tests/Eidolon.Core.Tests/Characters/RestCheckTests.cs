using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Tests.Characters;

public sealed class RestCheckTests
{
    /// <summary>A body whose joints are changed at rest.</summary>
    private static Skeleton Body(Func<Joint, Joint> change) => new(Anthropometry.Body(1.7f).Joints.Select(change));

    private static Skeleton Arms(double left, double right) =>
        Body(j =>
            j.Name is "UpperArmL" ? j with { RestRotation = Rotations.AboutAxis(2, -left * Math.PI / 180) }
            : j.Name is "UpperArmR" ? j with { RestRotation = Rotations.AboutAxis(2, right * Math.PI / 180) }
            : j
        );

    [Theory]
    [InlineData(2, 2, 0)]
    [InlineData(8, 0, 1)]
    [InlineData(8, 12, 2)]
    [InlineData(-6, 0, 1)]
    public void Arms_that_are_not_level_are_said_side_by_side(double left, double right, int reasons)
    {
        var report = RestCheck.Check(Arms(left, right));
        Assert.Equal(reasons == 0 ? RestVerdict.Ready : RestVerdict.WillDrift, report.Verdict);
        Assert.Equal(reasons, report.Reasons.Count);
        Assert.Equal(Math.Max(Math.Abs(left), Math.Abs(right)), report.ArmTilt, 0.1);
        if (reasons > 0)
        {
            Assert.Equal($"left arm {Math.Abs(left):0}° {(left > 0 ? "low" : "high")}", report.Reasons[0].What);
        }
    }

    [Theory]
    [InlineData(0, true)]
    [InlineData(4, true)]
    [InlineData(9, false)]
    [InlineData(-90, false)]
    [InlineData(180, false)]
    public void A_body_that_looks_elsewhere_is_said_by_how_far(double degrees, bool ready)
    {
        var turned = Body(j => j.Parent < 0 ? j with { RestRotation = Rotations.AboutAxis(1, degrees * Math.PI / 180) } : j);
        var report = RestCheck.Check(turned);
        Assert.Equal(ready, report.Verdict == RestVerdict.Ready);
        Assert.Equal(ready ? [] : [$"faces {Math.Abs(degrees):0}° away from ahead"], report.Reasons.Select(r => r.What));
    }

    [Fact]
    public void Sides_that_differ_are_said_in_millimetres()
    {
        var report = RestCheck.Check(Body(j => j.Name == "ForearmL" ? j with { Offset = j.Offset + new Vector3(0.03f, 0, 0) } : j));
        Assert.Equal(RestVerdict.WillDrift, report.Verdict);
        Assert.Equal(["upper arms differ by 30 mm"], report.Reasons.Select(r => r.What));
    }

    [Theory]
    [InlineData(0.001f)]
    [InlineData(100)]
    public void A_body_of_no_plausible_size_cannot_fit(float scale)
    {
        var report = RestCheck.Check(Body(j => j with { Offset = j.Offset * scale }));
        Assert.Equal(RestVerdict.CannotFit, report.Verdict);
        Assert.Contains(report.Reasons, r => r.What.EndsWith("is the unit right?", StringComparison.Ordinal));
    }

    [Fact]
    public void Every_role_that_is_needed_is_named_where_it_is_missing()
    {
        foreach (var role in BodyRoles.Required)
        {
            var report = RestCheck.Check(Body(j => j.Role == role ? j with { Role = null } : j));
            Assert.Equal(RestVerdict.CannotFit, report.Verdict);
            Assert.Equal([$"no joint plays {role}"], report.Reasons.Select(r => r.What));
        }
    }
}
