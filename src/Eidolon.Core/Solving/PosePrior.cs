using Eidolon.Core.Geometry;

namespace Eidolon.Core.Solving;

/// <summary>
/// What is likely without any marker: turns near rest, inside their limits, close to the frame before. All terms are diagonal, so the tree's
/// sparsity stays.
/// </summary>
internal sealed class PosePrior
{
    private readonly ArticulatedModel _model;
    private readonly double[] _rest;
    private readonly (double Low, double High)[] _limits;
    private readonly double _limitWeight;
    private readonly double _frameWeight;
    private readonly bool _any;

    public PosePrior(ArticulatedModel model, SolveOptions options, IReadOnlyList<JointFreedom> likely)
    {
        _model = model;
        _rest = new double[model.DofCount];
        _limits = new (double, double)[model.DofCount];
        Array.Fill(_limits, (double.NegativeInfinity, double.PositiveInfinity));
        double Weight(double spread) => double.IsInfinity(spread) ? 0 : options.MarkerSigma / spread * (options.MarkerSigma / spread);
        _limitWeight = Weight(0.03);
        _frameWeight = Weight(options.FrameSpread);
        for (var j = 0; j < model.JointCount; j++)
        {
            var free = likely[j];
            var first = model.FirstDof[j] + (free.Translates ? 3 : 0);
            for (var k = 0; k < free.Turns; k++)
            {
                _rest[first + k] = k < free.Spread.Count ? Weight(free.Spread[k]) : 0;
                _limits[first + k] = k < free.Limits.Count ? free.Limits[k] : _limits[first + k];
            }
        }

        _any =
            _frameWeight > 0
            || Array.Exists(_rest, w => w > 0)
            || Array.Exists(_limits, l => !double.IsInfinity(l.Low) || !double.IsInfinity(l.High));
    }

    public double Cost(ModelPose pose, ModelPose? previous) => _any ? Walk(null, pose, previous) : 0;

    public void AddTo(TreeNormalEquations equations, ModelPose pose, ModelPose? previous)
    {
        if (_any)
        {
            Walk(equations, pose, previous);
        }
    }

    private double Walk(TreeNormalEquations? equations, ModelPose pose, ModelPose? previous)
    {
        double cost = 0;
        for (var j = 0; j < _model.JointCount; j++)
        {
            var free = _model.Freedoms[j];
            var d = _model.FirstDof[j];
            if (free.Translates)
            {
                for (var k = 0; k < 3; k++, d++)
                {
                    cost += previous is null ? 0 : Term(equations, d, pose.Values[d] - previous.Values[d], _frameWeight);
                }
            }

            if (free.Ball)
            {
                var turn = pose.Turns[j].Log();
                cost += Turn(equations, d, turn.X) + Turn(equations, d + 1, turn.Y) + Turn(equations, d + 2, turn.Z);
                if (previous is not null && _frameWeight > 0)
                {
                    var change = (previous.Turns[j].Conjugate() * pose.Turns[j]).Log();
                    cost +=
                        Term(equations, d, change.X, _frameWeight)
                        + Term(equations, d + 1, change.Y, _frameWeight)
                        + Term(equations, d + 2, change.Z, _frameWeight);
                }

                continue;
            }

            for (var k = 0; k < free.Axes.Count; k++, d++)
            {
                cost += Turn(equations, d, pose.Values[d]);
                cost += previous is null ? 0 : Term(equations, d, pose.Values[d] - previous.Values[d], _frameWeight);
            }
        }

        return cost;
    }

    private double Turn(TreeNormalEquations? equations, int dof, double value)
    {
        var cost = Term(equations, dof, value, _rest[dof]);
        var (low, high) = _limits[dof];
        return value < low ? cost + Term(equations, dof, value - low, _limitWeight)
            : value > high ? cost + Term(equations, dof, value - high, _limitWeight)
            : cost;
    }

    private double Term(TreeNormalEquations? equations, int dof, double error, double weight)
    {
        if (equations is not null && weight > 0)
        {
            equations.Gradient[dof] += weight * error;
            equations.Hessian[_model.Rows.Diagonal(dof)] += weight;
        }

        return weight * error * error;
    }
}
