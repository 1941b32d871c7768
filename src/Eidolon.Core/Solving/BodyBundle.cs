using Eidolon.Core.Fitting;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Solving;

/// <summary>
/// Joint bundle adjustment of a body and its poses in many frames, the poses eliminated frame by frame (Schur complement), each frame's
/// block factored along the tree.
/// </summary>
/// <remarks>Triggs et al., "Bundle Adjustment: A Modern Synthesis", 2000, section 6.1.</remarks>
internal sealed class BodyBundle : ILeastSquares
{
    /// <summary>Sums the frames are shared out among: a fixed number, so that the result is the same on any number of cores.</summary>
    private const int Parts = 8;
    private readonly ArticulatedModel _model;
    private readonly BodyShape _shape;
    private readonly FrameSolver _solver;
    private readonly FrameSolver _restSolver;
    private readonly ShapeEquations[] _parts;
    private readonly ShapeEquations _restPart;
    private readonly int _rest;
    private readonly IReadOnlyList<Vector3d[]> _targets;
    private readonly ShapeEquations.Frame[] _frames;
    private readonly int _g;
    private readonly double _shapeWeight;
    private readonly double[] _before;

    public BodyBundle(
        ArticulatedModel model,
        BodyShape shape,
        IReadOnlyList<Vector3d[]> targets,
        ModelPose[] poses,
        SolveOptions options,
        int rest
    )
    {
        (_model, _shape, _targets, _rest, _g) = (model, shape, targets, rest, shape.Count);
        var alone = options with { FrameSpread = double.PositiveInfinity };
        var order = new ShapeOrder(model, shape);
        _solver = new FrameSolver(model, alone);
        _restSolver = new FrameSolver(
            model,
            alone,
            [.. Enumerable.Range(0, model.JointCount).Select(j => BodyFreedoms.AtRest(shape.RoleOf(j)))]
        );
        _parts = [.. Enumerable.Range(0, Parts).Select(_ => new ShapeEquations(model, shape, order, new FrameSolver(model, alone)))];
        _restPart = new ShapeEquations(model, shape, order, _restSolver);
        _before = new double[_g];
        _shapeWeight = poses.Length / 20.0;
        _frames = [.. poses.Select(p => new ShapeEquations.Frame(model, p, _g))];
    }

    /// <summary>Runs to convergence; the shape is applied to the model and the poses are updated in place. Returns the final cost.</summary>
    public double Solve(int steps, double tolerance, CancellationToken cancel, Action<double>? progress = null)
    {
        _shape.ApplyTo(_model);
        return LevenbergMarquardt
            .Run(
                this,
                new FitOptions
                {
                    Steps = steps,
                    Tolerance = tolerance,
                    Damping = 1e-4,
                    Shrink = 0.25,
                    Attempts = 6,
                },
                cancel,
                progress
            )
            .Cost;
    }

    double ILeastSquares.Cost() => Cost(f => f.Pose);

    void ILeastSquares.Linearise() => _shape.Values.CopyTo(_before, 0);

    double? ILeastSquares.Try(double damping)
    {
        if (Step(damping) is not { } delta)
        {
            return null;
        }

        for (var k = 0; k < _g; k++)
        {
            _shape.Values[k] = _before[k] + delta[k];
        }

        foreach (var frame in _frames)
        {
            _restPart.Move(frame, delta);
        }

        _shape.ApplyTo(_model);
        return Cost(f => f.Trial);
    }

    void ILeastSquares.Accept()
    {
        foreach (var frame in _frames)
        {
            frame.Pose.CopyFrom(frame.Trial);
        }
    }

    void ILeastSquares.Reject()
    {
        _before.CopyTo(_shape.Values, 0);
        _shape.ApplyTo(_model);
    }

    private double Cost(Func<ShapeEquations.Frame, ModelPose> pose)
    {
        var sum = _shape.Prior(_shapeWeight, null, null);
        for (var f = 0; f < _frames.Length; f++)
        {
            sum += (f == _rest ? _restSolver : _solver).Cost(pose(_frames[f]), _targets[f]);
        }

        return sum;
    }

    /// <summary>One damped step of the shape; the frames keep their share. Null when the equations cannot be factored.</summary>
    private double[]? Step(double lambda)
    {
        var h = new double[_g * _g];
        var g = new double[_g];
        _shape.Prior(_shapeWeight, h, g);
        for (var k = 0; k < _g; k++)
        {
            h[(k * _g) + k] *= 1 + lambda;
        }

        // Frames are shared out among the cores; each adds into sums of its own.
        var whole = new bool[Parts];
        Parallel.For(0, Parts, w =>
        {
            _parts[w].Clear();
            whole[w] = true;
            for (var f = w; f < _frames.Length && whole[w]; f += Parts)
            {
                whole[w] = f == _rest || _parts[w].Add(_frames[f], _targets[f], lambda);
            }
        });
        _restPart.Clear();
        if (whole.Contains(false) || (_rest >= 0 && !_restPart.Add(_frames[_rest], _targets[_rest], lambda)))
        {
            return null;
        }

        foreach (var part in _parts.Prepend(_restPart))
        {
            part.AddTo(h, g);
        }

        if (!DenseCholesky.Factor(h, _g))
        {
            return null;
        }

        for (var k = 0; k < _g; k++)
        {
            g[k] = -g[k];
        }

        DenseCholesky.Solve(h, _g, g);
        return g;
    }
}
