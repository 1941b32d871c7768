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
    private readonly FrameSolver[] _solvers;
    private readonly FrameSolver _restSolver;
    private readonly int _rest;
    private readonly IReadOnlyList<Vector3d[]> _targets;
    private readonly ModelPose[] _poses;
    private readonly ModelPose[] _trial;
    private readonly int _n;
    private readonly int _g;
    private readonly double _shapeWeight;
    private readonly List<int>[] _termsOf;
    private readonly List<int>[] _dofsOf;
    private readonly double[][] _coupling;
    private readonly double[][] _solved;
    private readonly double[][] _local;
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
        (_model, _shape, _targets, _poses) = (model, shape, targets, poses);
        var alone = options with { FrameSpread = double.PositiveInfinity };
        _solvers = [.. Enumerable.Range(0, Parts).Select(_ => new FrameSolver(model, alone))];
        _restSolver = new FrameSolver(
            model,
            alone,
            [.. Enumerable.Range(0, model.JointCount).Select(j => BodyFreedoms.AtRest(shape.RoleOf(j)))]
        );
        _rest = rest;
        _n = model.DofCount;
        _g = shape.Count;
        _before = new double[_g];
        _shapeWeight = 1;
        _trial = [.. poses.Select(_ => new ModelPose(model))];
        _coupling = [.. poses.Select(_ => new double[_n * _g])];
        _solved = [.. poses.Select(_ => new double[_n * _g])];
        _local = [.. poses.Select(_ => new double[_n])];
        _termsOf = [.. Enumerable.Range(0, model.MarkerCount).Select(TermsOf)];
        _dofsOf = [.. Enumerable.Range(0, model.MarkerCount).Select(DofsOf)];
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

    double ILeastSquares.Cost() => Cost(_poses);

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

        MovePoses(delta);
        _shape.ApplyTo(_model);
        return Cost(_trial);
    }

    void ILeastSquares.Accept()
    {
        for (var f = 0; f < _poses.Length; f++)
        {
            _poses[f].CopyFrom(_trial[f]);
        }
    }

    void ILeastSquares.Reject()
    {
        _before.CopyTo(_shape.Values, 0);
        _shape.ApplyTo(_model);
    }

    private double Cost(ModelPose[] poses)
    {
        var sum = _shape.Prior(_shapeWeight * _poses.Length / 20.0, null, null);
        for (var f = 0; f < poses.Length; f++)
        {
            sum += (f == _rest ? _restSolver : _solvers[0]).Cost(poses[f], _targets[f]);
        }

        return sum;
    }

    /// <summary>One damped step of the shape; the frames' share is kept for <see cref="MovePoses"/>.</summary>
    private double[]? Step(double lambda)
    {
        var h = new double[_g * _g];
        var g = new double[_g];
        _shape.Prior(_shapeWeight * _poses.Length / 20.0, h, g);
        for (var k = 0; k < _g; k++)
        {
            h[(k * _g) + k] *= 1 + lambda;
        }

        // Frames are shared out among the cores; each adds into sums of its own.
        var parts = new (double[] H, double[] G)[_solvers.Length];
        Parallel.For(0, _solvers.Length, w =>
        {
            parts[w] = (new double[_g * _g], new double[_g]);
            for (var f = w; f < _poses.Length; f += _solvers.Length)
            {
                if (f != _rest)
                {
                    AddFrame(f, _solvers[w], lambda, parts[w].H, parts[w].G);
                }
            }
        });
        if (_rest >= 0)
        {
            AddFrame(_rest, _restSolver, lambda, h, g);
        }

        foreach (var (ph, pg) in parts)
        {
            DenseCholesky.AddTo(h, ph);
            DenseCholesky.AddTo(g, pg);
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

    private void AddFrame(int f, FrameSolver solver, double lambda, double[] h, double[] g)
    {
        var coupling = _coupling[f];
        var solved = _solved[f];
        Array.Clear(coupling);
        solver.Linearise(_poses[f], _targets[f], out var equations);
        var k = solver.Kinematics;
        Span<Vector3d> direction = stackalloc Vector3d[64];
        for (var i = 0; i < _model.MarkerCount; i++)
        {
            var w = solver.Weights[i];
            if (!(w > 0))
            {
                continue;
            }

            var terms = _termsOf[i];
            for (var a = 0; a < terms.Count; a++)
            {
                var t = _shape.Terms[terms[a]];
                var frame = t.Joint >= 0 ? _model.Parents[t.Joint] : _model.MarkerJoints[i];
                direction[a] = k.Rotation[frame] * t.Direction;
                g[terms[a]] += w * Vector3d.Dot(direction[a], solver.Residuals[i]);
                for (var b = 0; b <= a; b++)
                {
                    var v = w * Vector3d.Dot(direction[a], direction[b]);
                    h[(Math.Max(terms[a], terms[b]) * _g) + Math.Min(terms[a], terms[b])] += a == b ? v * (1 + lambda) : v;
                }
            }

            foreach (var d in _dofsOf[i])
            {
                var j = (k.Linear[d] + Vector3d.Cross(k.Angular[d], k.Markers[i])) * w;
                for (var a = 0; a < terms.Count; a++)
                {
                    coupling[(terms[a] * _n) + d] += Vector3d.Dot(j, direction[a]);
                }
            }
        }

        equations.Factor(lambda);
        equations.Gradient.CopyTo(_local[f], 0);
        equations.BackSolve(_local[f]);
        coupling.CopyTo(solved, 0);
        for (var a = 0; a < _g; a++)
        {
            equations.BackSolve(solved.AsSpan(a * _n, _n));
            g[a] -= DenseCholesky.Dot(coupling.AsSpan(a * _n, _n), _local[f]);
            for (var b = 0; b <= a; b++)
            {
                h[(a * _g) + b] -= DenseCholesky.Dot(coupling.AsSpan(b * _n, _n), solved.AsSpan(a * _n, _n));
            }
        }
    }

    private void MovePoses(double[] delta)
    {
        var step = new double[_n];
        for (var f = 0; f < _poses.Length; f++)
        {
            for (var d = 0; d < _n; d++)
            {
                step[d] = -_local[f][d];
            }

            for (var a = 0; a < _g; a++)
            {
                var row = _solved[f].AsSpan(a * _n, _n);
                for (var d = 0; d < _n; d++)
                {
                    step[d] -= row[d] * delta[a];
                }
            }

            _trial[f].Step(_model, _poses[f], step);
        }
    }

    private List<int> TermsOf(int marker)
    {
        var chain = new HashSet<int>();
        for (var j = _model.MarkerJoints[marker]; j > 0; j = _model.Parents[j])
        {
            chain.Add(j);
        }

        return
        [
            .. Enumerable
                .Range(0, _g)
                .Where(k => _shape.Terms[k] is var t && (t.Joint >= 0 ? chain.Contains(t.Joint) : t.Marker == marker)),
        ];
    }

    private List<int> DofsOf(int marker)
    {
        var list = new List<int>();
        for (var d = _model.LastDof[_model.MarkerJoints[marker]]; d >= 0; d = _model.DofParents[d])
        {
            list.Add(d);
        }

        return list;
    }
}
