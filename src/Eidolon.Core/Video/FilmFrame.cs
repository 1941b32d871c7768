using Eidolon.Core.Fitting;
using Eidolon.Core.Geometry;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Video;

/// <summary>
/// The pose of one frame: points where cameras see them, turns that are likely and within their limits, near a pose that the whole film makes
/// likely, and standing joints where they stand. Not thread-safe.
/// </summary>
internal sealed class FilmFrame : ILeastSquares
{
    /// <summary>Off by more than so many of its own spreads a point counts less and less.</summary>
    private const double Robust = 3;

    /// <summary>How far beyond its limit a turn is as unlikely as one spread, radians.</summary>
    private const double LimitSpread = 0.05;

    private readonly ArticulatedModel _model;
    private readonly ModelKinematics _kinematics;
    private readonly double[] _hessian;
    private readonly double[] _factor;
    private readonly double[] _gradient;
    private readonly double[] _step;
    private readonly double[] _row;
    private readonly ModelPose _trial;
    private readonly ModelPose _ease;
    private readonly int _n;
    private ModelPose _pose;
    private IReadOnlyList<FilmSight> _sights = [];
    private ModelPose? _near;
    private double _nearWeight;
    private IReadOnlyList<FilmStand> _stands = [];

    public FilmFrame(FilmBody body)
    {
        _model = body.Model;
        _kinematics = new ModelKinematics(_model);
        _n = _model.DofCount;
        (_hessian, _factor) = (new double[_n * _n], new double[_n * _n]);
        (_gradient, _step, _row) = (new double[_n], new double[_n], new double[_n]);
        _trial = new ModelPose(_model);
        _ease = body.AtEase(default, 0, sits: false);
        _pose = _trial;
    }

    /// <summary>Places of the model's markers at the pose last looked at.</summary>
    public ReadOnlySpan<Vector3d> Markers => _kinematics.Markers;

    /// <summary>Moves a pose to the best fit; returns its cost.</summary>
    /// <param name="near">The pose that the film makes likely, or null.</param>
    /// <param name="nearSpread">How far from it is likely: radians, and metres of the root.</param>
    public double Solve(
        ModelPose pose,
        IReadOnlyList<FilmSight> sights,
        ModelPose? near = null,
        double nearSpread = 1,
        IReadOnlyList<FilmStand>? stands = null,
        int steps = 12
    )
    {
        (_pose, _sights, _near, _stands) = (pose, sights, near, stands ?? []);
        _nearWeight = near is null ? 0 : 1 / (nearSpread * nearSpread);
        return LevenbergMarquardt
            .Run(
                this,
                new FitOptions
                {
                    Steps = steps,
                    Tolerance = 1e-4,
                    Damping = 1e-3,
                    Growth = 4,
                }
            )
            .Cost;
    }

    /// <summary>The cost of what is seen alone, without moving anything.</summary>
    public double SightCost(ModelPose pose, IReadOnlyList<FilmSight> sights)
    {
        _kinematics.Update(pose, false);
        double cost = 0;
        foreach (var s in sights)
        {
            cost += Sight(s, out _, out _, out _, out _);
        }

        return cost;
    }

    /// <summary>Places the markers as a pose has them.</summary>
    public ReadOnlySpan<Vector3d> Place(ModelPose pose)
    {
        _kinematics.Update(pose, false);
        return _kinematics.Markers;
    }

    double ILeastSquares.Cost() => Cost(_pose);

    void ILeastSquares.Linearise()
    {
        _kinematics.Update(_pose, true);
        Array.Clear(_hessian);
        Array.Clear(_gradient);
        foreach (var s in _sights)
        {
            if (Sight(s, out var ru, out var rv, out var weight, out var c) < double.MaxValue)
            {
                AddSight(s, ru, rv, weight, c);
            }
        }

        foreach (var s in _stands)
        {
            AddStand(s);
        }

        Walk(_pose, add: true);
    }

    double? ILeastSquares.Try(double damping)
    {
        for (var i = 0; i < _n; i++)
        {
            for (var j = 0; j <= i; j++)
            {
                _factor[(i * _n) + j] = _hessian[(i * _n) + j];
            }

            _factor[(i * _n) + i] += (damping * _hessian[(i * _n) + i]) + 1e-6;
            _step[i] = -_gradient[i];
        }

        if (!DenseCholesky.Factor(_factor, _n))
        {
            return null;
        }

        DenseCholesky.Solve(_factor, _n, _step);
        _trial.Step(_model, _pose, _step);
        return Cost(_trial);
    }

    void ILeastSquares.Accept() => _pose.CopyFrom(_trial);

    void ILeastSquares.Reject() { }

    private double Cost(ModelPose pose)
    {
        _kinematics.Update(pose, false);
        double cost = 0;
        foreach (var s in _sights)
        {
            cost += Sight(s, out _, out _, out _, out _);
        }

        foreach (var s in _stands)
        {
            var r = _kinematics.Markers[s.Marker] - s.Place;
            cost += 0.5 * ((s.FloorWeight * ((r.X * r.X) + (r.Z * r.Z))) + (s.HeightWeight * r.Y * r.Y));
        }

        return cost + Walk(pose, add: false);
    }

    /// <summary>A point's cost, residuals and weight; Cauchy's loss.</summary>
    private double Sight(FilmSight s, out double ru, out double rv, out double weight, out Vector3d c)
    {
        c = (s.Camera.Rotation * _kinematics.Markers[s.Point]) + s.Camera.Translation;
        // What lies behind the camera is drawn far off, so that it is pulled in front.
        var z = Math.Max(c.Z, 0.2);
        var (u, v) = s.Camera.Distort(c.X / z, c.Y / z);
        (ru, rv) = (u - s.U, v - s.V);
        var r2 = s.Weight * ((ru * ru) + (rv * rv)) / (Robust * Robust);
        weight = s.Weight / (1 + r2);
        return 0.5 * Robust * Robust * Math.Log(1 + r2);
    }

    private void AddSight(FilmSight s, double ru, double rv, double weight, Vector3d c)
    {
        var z = Math.Max(c.Z, 0.2);
        var f = s.Camera.Focal / z;
        var (x, y) = (c.X / z, c.Y / z);
        var r = s.Camera.Rotation;
        // Rows of d(u, v)/d(place); the lens' distortion is small enough to be left to the next step.
        Vector3d du = new(f * (r.X.X - (x * r.X.Z)), f * (r.Y.X - (x * r.Y.Z)), f * (r.Z.X - (x * r.Z.Z)));
        Vector3d dv = new(f * (r.X.Y - (y * r.X.Z)), f * (r.Y.Y - (y * r.Y.Z)), f * (r.Z.Y - (y * r.Z.Z)));
        AddRow(s.Point, du, ru, weight);
        AddRow(s.Point, dv, rv, weight);
    }

    private void AddStand(FilmStand s)
    {
        var r = _kinematics.Markers[s.Marker] - s.Place;
        AddRow(s.Marker, new(1, 0, 0), r.X, s.FloorWeight);
        AddRow(s.Marker, new(0, 1, 0), r.Y, s.HeightWeight);
        AddRow(s.Marker, new(0, 0, 1), r.Z, s.FloorWeight);
    }

    private void AddRow(int marker, Vector3d direction, double residual, double weight)
    {
        if (weight <= 0)
        {
            return;
        }

        var place = _kinematics.Markers[marker];
        var last = _model.LastDof[_model.MarkerJoints[marker]];
        for (var d = last; d >= 0; d = _model.DofParents[d])
        {
            _row[d] = Vector3d.Dot(direction, _kinematics.Linear[d] + Vector3d.Cross(_kinematics.Angular[d], place));
        }

        for (var d = last; d >= 0; d = _model.DofParents[d])
        {
            var w = weight * _row[d];
            _gradient[d] += w * residual;
            for (var a = d; a >= 0; a = _model.DofParents[a])
            {
                _hessian[(d * _n) + a] += w * _row[a];
            }
        }
    }

    /// <summary>What is likely without any picture; all terms are diagonal.</summary>
    private double Walk(ModelPose pose, bool add)
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
                    cost += _near is null ? 0 : Term(d, pose.Values[d] - _near.Values[d], _nearWeight, add);
                }
            }

            if (free.Ball)
            {
                // Limits are about the T-pose, what is likely about standing at ease.
                var own = pose.Turns[j].Log();
                var ease = (_ease.Turns[j].Conjugate() * pose.Turns[j]).Log();
                cost +=
                    Likely(free, d, 0, ease.X, own.X, add)
                    + Likely(free, d, 1, ease.Y, own.Y, add)
                    + Likely(free, d, 2, ease.Z, own.Z, add);
                if (_near is not null)
                {
                    var off = (_near.Turns[j].Conjugate() * pose.Turns[j]).Log();
                    cost += Term(d, off.X, _nearWeight, add) + Term(d + 1, off.Y, _nearWeight, add) + Term(d + 2, off.Z, _nearWeight, add);
                }

                continue;
            }

            for (var k = 0; k < free.Axes.Count; k++, d++)
            {
                cost += Likely(free, d, 0, pose.Values[d] - _ease.Values[d], pose.Values[d], add, k);
                cost += _near is null ? 0 : Term(d, pose.Values[d] - _near.Values[d], _nearWeight, add);
            }
        }

        return cost;
    }

    private double Likely(JointFreedom free, int first, int axis, double fromEase, double value, bool add, int single = -1)
    {
        var (k, d) = single < 0 ? (axis, first + axis) : (single, first);
        double cost = 0;
        if (k < free.Spread.Count && double.IsFinite(free.Spread[k]))
        {
            cost += Term(d, fromEase, 1 / (free.Spread[k] * free.Spread[k]), add);
        }

        if (k < free.Limits.Count)
        {
            var (low, high) = free.Limits[k];
            var beyond =
                value < low ? value - low
                : value > high ? value - high
                : 0;
            cost += beyond == 0 ? 0 : Term(d, beyond, 1 / (LimitSpread * LimitSpread), add);
        }

        return cost;
    }

    private double Term(int dof, double error, double weight, bool add)
    {
        if (add)
        {
            _gradient[dof] += weight * error;
            _hessian[(dof * _n) + dof] += weight;
        }

        return 0.5 * weight * error * error;
    }
}
