using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Tests.Solving;

public sealed class PosePriorTests
{
    private const double Degree = Math.PI / 180;

    /// <summary>A pelvis and one joint below it; the joint's turns in degrees.</summary>
    private static (ArticulatedModel Model, ModelPose Pose) Joint(BodyRole role, params double[] degrees)
    {
        var model = new ArticulatedModel(
            [-1, 0],
            [default, new Vector3d(0, -0.4, 0)],
            [BodyFreedoms.Of(BodyRole.Pelvis), BodyFreedoms.Of(role)],
            [1],
            [new Vector3d(0, -0.1, 0)]
        );
        var step = new double[model.DofCount];
        for (var k = 0; k < degrees.Length; k++)
        {
            step[6 + k] = degrees[k] * Degree;
        }

        var pose = new ModelPose(model);
        pose.Step(model, new ModelPose(model), step);
        return (model, pose);
    }

    private static double Cost(BodyRole role, params double[] degrees)
    {
        var (model, pose) = Joint(role, degrees);
        return new PosePrior(model, new SolveOptions { FrameSpread = double.PositiveInfinity }, model.Freedoms).Cost(pose, null);
    }

    [Theory]
    // A knee bends back by 8° and no farther; bent as far as it goes it costs nothing, a flexed knee is as likely as a straight one.
    [InlineData(BodyRole.ShinL, 120, -7, 30)]
    [InlineData(BodyRole.ShinR, 60, 0, 30)]
    // An elbow, whose bend is about Y and on the right the other way round.
    [InlineData(BodyRole.ForearmL, -120, 7, 30)]
    [InlineData(BodyRole.ForearmR, 120, -7, -30)]
    public void What_a_joint_cannot_do_costs_far_more_than_what_it_can(BodyRole role, double bent, double nearly, double beyond)
    {
        // Past the far side of its range: the sign tells which way is past.
        var past = role is BodyRole.ShinL or BodyRole.ShinR ? -beyond : beyond;
        var (free, edge, over) = (Cost(role, bent), Cost(role, nearly), Cost(role, past));
        Assert.True(free <= 1e-12, $"{free}");
        Assert.True(edge <= 1e-12, $"{edge}");
        // 22° past the limit of 8° with a weight of one marker's spread for each 0.03 rad.
        var expected = Math.Pow(new SolveOptions().MarkerSigma / 0.03 * (22 * Degree), 2);
        Assert.Equal(expected, over, expected * 0.01);
    }

    [Fact]
    public void A_forearm_twists_as_forearms_do_and_hardly_bends_sideways()
    {
        // The order of an elbow's turns: bend (Y), sideways (Z), twist (X).
        var twisted = Cost(BodyRole.ForearmL, 0, 0, 60);
        var sideways = Cost(BodyRole.ForearmL, 0, 6, 0);
        Assert.True(twisted < sideways, $"{twisted} {sideways}");
        Assert.Equal(Math.Pow(new SolveOptions().MarkerSigma / (50 * Degree) * (60 * Degree), 2), twisted, 1e-9);
    }

    [Fact]
    public void Leaving_the_frame_before_costs_by_the_distance_left()
    {
        var (model, pose) = Joint(BodyRole.ShinL, 30);
        var (_, next) = Joint(BodyRole.ShinL, 40);
        var options = new SolveOptions();
        var prior = new PosePrior(model, options, model.Freedoms);
        Assert.Equal(0, prior.Cost(pose, pose), 1e-12);
        Assert.Equal(Math.Pow(options.MarkerSigma / options.FrameSpread * (10 * Degree), 2), prior.Cost(next, pose), 1e-9);
    }

    [Fact]
    public void Its_equations_are_the_slope_of_its_cost()
    {
        // Bent past its limit, sideways and twisted, and all of it other than a frame before.
        var (model, pose) = Joint(BodyRole.ForearmL, 20, 3, -40);
        var (_, before) = Joint(BodyRole.ForearmL, -10, 5, 20);
        var prior = new PosePrior(model, new SolveOptions(), model.Freedoms);
        var equations = new TreeNormalEquations(model);
        var kinematics = new ModelKinematics(model);
        kinematics.Update(pose, true);
        equations.Build(kinematics, new double[model.MarkerCount], new Vector3d[model.MarkerCount]);
        prior.AddTo(equations, pose, before);
        double At(int dof, double by)
        {
            var step = new double[model.DofCount];
            step[dof] = by;
            var moved = new ModelPose(model);
            moved.Step(model, pose, step);
            return 0.5 * prior.Cost(moved, before);
        }

        const double h = 1e-4;
        for (var d = 6; d < model.DofCount; d++)
        {
            Assert.Equal((At(d, h) - At(d, -h)) / (2 * h), equations.Gradient[d], 1e-9);
            Assert.Equal((At(d, h) + At(d, -h) - (2 * At(d, 0))) / (h * h), equations.Hessian[model.Rows.Diagonal(d)], 1e-6);
        }
    }

    public static TheoryData<BodyRole> Sided =>
        [.. Enum.GetValues<BodyRole>().Where(r => BodyRoles.Side(r) == 'L' && !BodyRoles.IsFinger(r))];

    [Theory]
    [MemberData(nameof(Sided))]
    public void A_right_joint_is_a_left_one_in_the_mirror(BodyRole left)
    {
        JointFreedom l = BodyFreedoms.Of(left),
            r = BodyFreedoms.Of(BodyRoles.Mirror(left));
        Assert.Equal(l.Spread, r.Spread);
        Assert.Equal(l.Axes, r.Axes);
        var axes = l.Axes.Count > 0 ? l.Axes : [0, 1, 2];
        for (var k = 0; k < 3; k++)
        {
            Assert.True(l.Limits[k].Low < l.Limits[k].High);
            // About X both turn alike, about Y and Z the other way round.
            Assert.Equal(axes[k] == 0 ? l.Limits[k] : (-l.Limits[k].High, -l.Limits[k].Low), r.Limits[k]);
        }
    }

    [Fact]
    public void At_rest_nothing_is_far_from_rest_and_nothing_has_limits()
    {
        foreach (var role in BodyRoles.Required)
        {
            var rest = BodyFreedoms.AtRest(role);
            Assert.Empty(rest.Limits);
            Assert.All(rest.Spread, s => Assert.InRange(s, 1.9 * Degree, 6.1 * Degree));
            Assert.Equal(BodyFreedoms.Of(role).Axes, rest.Axes);
        }
    }
}
