using Eidolon.Core.Fitting;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Solving;

/// <summary>Fit of one pose to one frame of markers, with warm start. Not thread-safe: one a thread.</summary>
/// <remarks>Robust weights by iterative reweighting.</remarks>
public sealed class FrameSolver : ILeastSquares
{
    /// <summary>Next to none: the pose of the frame before is close.</summary>
    private const double FirstDamping = 1e-6;
    private readonly ArticulatedModel _model;
    private readonly SolveOptions _options;
    private readonly ModelKinematics _kinematics;
    private readonly TreeNormalEquations _equations;
    private readonly PosePrior _prior;
    private readonly double[] _weights;
    private readonly Vector3d[] _residuals;
    private readonly double[] _step;
    private readonly ModelPose _trial;
    private ModelPose _pose;
    private ModelPose? _previous;
    private Vector3d[] _targets;

    /// <param name="likely">What is likely about each joint when it differs from the model's own freedoms.</param>
    public FrameSolver(ArticulatedModel model, SolveOptions? options = null, IReadOnlyList<JointFreedom>? likely = null)
    {
        _model = model;
        _options = options ?? new SolveOptions();
        _kinematics = new ModelKinematics(model);
        _equations = new TreeNormalEquations(model);
        _prior = new PosePrior(model, _options, likely ?? model.Freedoms);
        _weights = new double[model.MarkerCount];
        _residuals = new Vector3d[model.MarkerCount];
        _step = new double[model.DofCount];
        _trial = new ModelPose(model);
        _pose = _trial;
        _targets = new Vector3d[model.MarkerCount];
    }

    /// <summary>Linear systems solved since the start.</summary>
    public long LinearSolves { get; private set; }

    /// <summary>World places of the markers at the last pose that was solved, metres.</summary>
    public ReadOnlySpan<Vector3d> Markers => _kinematics.Markers;

    internal ModelKinematics Kinematics => _kinematics;

    /// <summary>Moves <paramref name="pose"/> to the best fit; <paramref name="previous"/> is the frame before, or null. Returns the cost, m².</summary>
    /// <param name="targets">One place a marker, metres; NaN where it is not seen.</param>
    public double Solve(ModelPose pose, ReadOnlySpan<Vector3d> targets, ModelPose? previous = null)
    {
        // The problem holds the markers of this one frame while it is fitted.
        if (_targets.Length != targets.Length)
        {
            _targets = new Vector3d[targets.Length];
        }

        targets.CopyTo(_targets);
        (_pose, _previous) = (pose, previous);
        var report = LevenbergMarquardt.Run(
            this,
            new FitOptions
            {
                Steps = _options.MaximumSteps,
                Tolerance = _options.Tolerance,
                Damping = FirstDamping,
                Growth = 2,
                LeastAgain = 1e-5,
                Attempts = 10,
            }
        );
        LinearSolves += report.Solves;
        // What was tried last and refused is still in the kinematics.
        return report.End == FitEnd.NoBetterStep ? Evaluate(pose, targets, previous, withMotions: true) : report.Cost;
    }

    double ILeastSquares.Cost() => Evaluate(_pose, _targets, _previous, withMotions: true);

    void ILeastSquares.Linearise()
    {
        _equations.Build(_kinematics, _weights, _residuals);
        _prior.AddTo(_equations, _pose, _previous);
    }

    double? ILeastSquares.Try(double damping)
    {
        if (!_equations.Solve(damping, _step))
        {
            return null;
        }

        _trial.Step(_model, _pose, _step);
        return Evaluate(_trial, _targets, _previous, withMotions: true);
    }

    void ILeastSquares.Accept() => _pose.CopyFrom(_trial);

    void ILeastSquares.Reject() { }

    /// <summary>Cost of a pose and, at it, the equations; for the calibration, which solves many frames and the body at once.</summary>
    internal double Linearise(ModelPose pose, ReadOnlySpan<Vector3d> targets, out TreeNormalEquations equations)
    {
        var cost = Evaluate(pose, targets, null, withMotions: true);
        _equations.Build(_kinematics, _weights, _residuals);
        _prior.AddTo(_equations, pose, null);
        equations = _equations;
        return cost;
    }

    internal ReadOnlySpan<double> Weights => _weights;

    internal ReadOnlySpan<Vector3d> Residuals => _residuals;

    internal double Cost(ModelPose pose, ReadOnlySpan<Vector3d> targets) => Evaluate(pose, targets, null, withMotions: false);

    private double Evaluate(ModelPose pose, ReadOnlySpan<Vector3d> targets, ModelPose? previous, bool withMotions)
    {
        _kinematics.Update(pose, withMotions);
        var scale = _options.RobustScale * _options.RobustScale;
        var plain = double.IsInfinity(scale);
        double sum = 0;
        for (var i = 0; i < targets.Length; i++)
        {
            if (double.IsNaN(targets[i].X))
            {
                _weights[i] = 0;
                continue;
            }

            var r = _kinematics.Markers[i] - targets[i];
            var r2 = Vector3d.Dot(r, r);
            _residuals[i] = r;
            var own = _model.MarkerWeights[i];
            _weights[i] = plain ? own : own / (1 + (r2 / scale));
            sum += own * (plain ? r2 : scale * Math.Log(1 + (r2 / scale)));
        }

        return 0.5 * (sum + _prior.Cost(pose, previous));
    }
}
