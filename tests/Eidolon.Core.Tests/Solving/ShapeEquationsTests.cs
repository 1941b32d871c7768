using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Tests.Solving;

/// <summary>What the tree's order saves is not a number that counts: shape and pose agree with the same equations written out whole.</summary>
public sealed class ShapeEquationsTests
{
    private const double Lambda = 0.03;

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void Poses_eliminated_along_the_tree_leave_what_dense_elimination_leaves(int seed)
    {
        var random = new Random(seed);
        double D() => random.NextDouble() - 0.5;
        var skeleton = Anthropometry.Body(1.7f);
        // Markers on some bones and none on others.
        List<PerformerMarker> markers =
        [
            .. Enumerable
                .Range(0, 30)
                .Select(i => new PerformerMarker(
                    $"M{i}",
                    random.Next(skeleton.Count),
                    0.1f * new Vector3((float)D(), (float)D(), (float)D())
                )),
        ];
        var model = BodyModel.Create(new Performer("Nobody", 1.7f, skeleton, markers));
        var shape = new BodyShape(skeleton, markers, [.. markers.Select(_ => 0.02)], 0.004);
        shape.ApplyTo(model);
        var (n, g) = (model.DofCount, shape.Count);
        var pose = new ModelPose(model);
        pose.Step(model, new ModelPose(model), [.. Enumerable.Range(0, n).Select(_ => D())]);
        var targets = Places(model, pose);
        for (var i = 0; i < targets.Length; i++)
        {
            targets[i] = i % 7 == 3 ? new Vector3d(double.NaN, 0, 0) : targets[i] + (new Vector3d(D(), D(), D()) * 0.05);
        }

        var options = new SolveOptions { RobustScale = double.PositiveInfinity };
        var frame = new ShapeEquations.Frame(model, pose, g);
        var sums = new ShapeEquations(model, shape, new ShapeOrder(model, shape), new FrameSolver(model, options));
        // The second frame finds no rest of the first.
        Assert.True(sums.Add(frame, targets, Lambda));
        sums.Clear();
        Assert.True(sums.Add(frame, targets, Lambda));
        var (h, gradient) = (new double[g * g], new double[g]);
        sums.AddTo(h, gradient);

        // Whole: derivatives one unknown after the other, the frame's block inverted as it is.
        var (c, local, e) = Whole(model, shape, pose, targets, options, out var own, out var pull);
        for (var a = 0; a < g; a++)
        {
            var column = Solve(c, n, [.. Enumerable.Range(0, n).Select(d => e[(d * g) + a])]);
            Assert.Equal(pull[a] - Dot(column, local), gradient[a], 1e-6);
            for (var b = 0; b <= a; b++)
            {
                var expected = own[(a * g) + b] - Dot(column, [.. Enumerable.Range(0, n).Select(d => e[(d * g) + b])]);
                Assert.Equal(expected, h[(a * g) + b], 1e-5);
            }
        }

        // And the pose moves along.
        var delta = Enumerable.Range(0, g).Select(_ => 0.01 * D()).ToArray();
        sums.Move(frame, delta);
        var right = Enumerable.Range(0, n).Select(d => -local[d] - Enumerable.Range(0, g).Sum(a => e[(d * g) + a] * delta[a])).ToArray();
        var there = new ModelPose(model);
        there.Step(model, pose, Solve(c, n, right));
        Assert.All(Places(model, there).Zip(Places(model, frame.Trial)), x => Assert.InRange((x.First - x.Second).Length, 0, 1e-6));
    }

    private static (double[] C, double[] Local, double[] E) Whole(
        ArticulatedModel model,
        BodyShape shape,
        ModelPose pose,
        Vector3d[] targets,
        SolveOptions options,
        out double[] own,
        out double[] pull
    )
    {
        const double Step = 1e-6;
        var (n, g) = (model.DofCount, shape.Count);
        new FrameSolver(model, options).Linearise(pose, targets, out var equations);
        var c = new double[n * n];
        for (var d = 0; d < n; d++)
        {
            for (var a = d; a >= 0; a = model.DofParents[a])
            {
                c[(d * n) + a] =
                    equations.Hessian[model.Rows.Starts[d] + Array.IndexOf(model.Rows.Chains[d], a)] * (a == d ? 1 + Lambda : 1);
            }
        }

        var here = Places(model, pose);
        var byPose = Enumerable
            .Range(0, n)
            .Select(d =>
            {
                var moved = new ModelPose(model);
                moved.Step(model, pose, [.. Enumerable.Range(0, n).Select(k => k == d ? Step : 0)]);
                return Slope(Places(model, moved));
            })
            .ToArray();
        var byShape = Enumerable
            .Range(0, g)
            .Select(k =>
            {
                shape.Values[k] += Step;
                shape.ApplyTo(model);
                var slope = Slope(Places(model, pose));
                shape.Values[k] -= Step;
                shape.ApplyTo(model);
                return slope;
            })
            .ToArray();
        var seen = Enumerable.Range(0, targets.Length).Where(i => !double.IsNaN(targets[i].X)).ToArray();
        (own, pull) = (new double[g * g], new double[g]);
        var e = new double[n * g];
        for (var a = 0; a < g; a++)
        {
            pull[a] = seen.Sum(i => Vector3d.Dot(byShape[a][i], here[i] - targets[i]));
            for (var b = 0; b <= a; b++)
            {
                own[(a * g) + b] = seen.Sum(i => Vector3d.Dot(byShape[a][i], byShape[b][i])) * (a == b ? 1 + Lambda : 1);
            }

            for (var d = 0; d < n; d++)
            {
                e[(d * g) + a] = seen.Sum(i => Vector3d.Dot(byPose[d][i], byShape[a][i]));
            }
        }

        return (c, [.. equations.Gradient], e);

        Vector3d[] Slope(Vector3d[] there) => [.. there.Select((p, i) => (p - here[i]) * (1 / Step))];
    }

    private static Vector3d[] Places(ArticulatedModel model, ModelPose pose)
    {
        var k = new ModelKinematics(model);
        k.Update(pose, false);
        return [.. k.Markers];
    }

    private static double[] Solve(double[] lower, int n, double[] right)
    {
        var l = lower.ToArray();
        Assert.True(DenseCholesky.Factor(l, n));
        DenseCholesky.Solve(l, n, right);
        return right;
    }

    private static double Dot(double[] a, double[] b) => a.Zip(b, (x, y) => x * y).Sum();
}
