using Eidolon.Core.Geometry;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Tests.Solving;

public sealed class TreeNormalEquationsTests
{
    private static (ArticulatedModel Model, ModelPose Pose) Random(int seed)
    {
        var random = new Random(seed);
        double D() => random.NextDouble() - 0.5;
        const int joints = 7;
        var parents = Enumerable.Range(0, joints).Select(i => i == 0 ? -1 : random.Next(i)).ToArray();
        var freedoms = Enumerable
            .Range(0, joints)
            .Select(i =>
                i == 0
                    ? new JointFreedom(true, true, [])
                    : random.Next(3) switch
                    {
                        0 => new JointFreedom(false, true, []),
                        1 => new JointFreedom(false, false, [random.Next(3)]),
                        _ => new JointFreedom(false, false, [2, 0, 1]),
                    }
            )
            .ToArray();
        var model = new ArticulatedModel(
            parents,
            [.. parents.Select(_ => new Vector3d(D(), D(), D()))],
            freedoms,
            [.. Enumerable.Range(0, 15).Select(i => i % joints)],
            [.. Enumerable.Range(0, 15).Select(_ => new Vector3d(D(), D(), D()))]
        );
        var pose = new ModelPose(model);
        var step = Enumerable.Range(0, model.DofCount).Select(_ => D() * 2).ToArray();
        pose.Step(model, new ModelPose(model), step);
        return (model, pose);
    }

    private static Vector3d[] Markers(ArticulatedModel model, ModelPose pose)
    {
        var k = new ModelKinematics(model);
        k.Update(pose, false);
        return (Vector3d[])k.Markers.Clone();
    }

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void Hessian_and_gradient_agree_with_numeric_derivatives(int seed)
    {
        var (model, pose) = Random(seed);
        var random = new Random(seed + 100);
        var n = model.DofCount;
        var k = new ModelKinematics(model);
        k.Update(pose, true);
        var weights = Enumerable.Range(0, model.MarkerCount).Select(_ => random.NextDouble()).ToArray();
        var residuals = Enumerable
            .Range(0, model.MarkerCount)
            .Select(_ => new Vector3d(random.NextDouble(), random.NextDouble(), random.NextDouble()))
            .ToArray();
        var equations = new TreeNormalEquations(model);
        equations.Build(k, weights, residuals);
        const double h = 1e-6;
        var jacobian = new Vector3d[n][];
        for (var d = 0; d < n; d++)
        {
            var step = new double[n];
            step[d] = h;
            var moved = new ModelPose(model);
            moved.Step(model, pose, step);
            var there = Markers(model, moved);
            jacobian[d] = [.. there.Select((p, i) => (p - k.Markers[i]) * (1 / h))];
        }

        for (var d = 0; d < n; d++)
        {
            Assert.Equal(
                Enumerable.Range(0, weights.Length).Sum(i => weights[i] * Vector3d.Dot(jacobian[d][i], residuals[i])),
                equations.Gradient[d],
                1e-4
            );
            for (var a = d; a >= 0; a = model.DofParents[a])
            {
                Assert.Equal(
                    Enumerable.Range(0, weights.Length).Sum(i => weights[i] * Vector3d.Dot(jacobian[d][i], jacobian[a][i])),
                    equations.Hessian[model.Rows.Starts[d] + Array.IndexOf(model.Rows.Chains[d], a)],
                    1e-4
                );
            }
        }
    }

    [Theory]
    [InlineData(11)]
    [InlineData(12)]
    [InlineData(13)]
    public void A_pose_is_found_again_from_its_markers(int seed)
    {
        var (model, truth) = Random(seed);
        var targets = Markers(model, truth);
        var random = new Random(seed);
        var pose = new ModelPose(model);
        pose.Step(model, truth, [.. Enumerable.Range(0, model.DofCount).Select(_ => (random.NextDouble() - 0.5) * 0.3)]);
        var cost = new FrameSolver(
            model,
            new SolveOptions
            {
                RobustScale = double.PositiveInfinity,
                FrameSpread = double.PositiveInfinity,
                Tolerance = 1e-12,
            }
        ).Solve(pose, targets);
        Assert.True(cost < 1e-12, cost.ToString());
    }
}
