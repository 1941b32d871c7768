using Eidolon.Core.Geometry;

namespace Eidolon.Core.Solving;

/// <summary>
/// Normal equations of a body's shape with the poses of frames eliminated one after the other: H −= Eᵀ C⁻¹ E, where E couples shape and
/// pose and C is a frame's own block. Not thread-safe: one a thread.
/// </summary>
/// <remarks>Triggs et al., "Bundle Adjustment: A Modern Synthesis", 2000, section 6.1.</remarks>
internal sealed class ShapeEquations(ArticulatedModel model, BodyShape shape, ShapeOrder order, FrameSolver solver)
{
    private readonly int _n = model.DofCount;
    private readonly int _g = order.Count;

    /// <summary>Upper triangle, in the order of the tree.</summary>
    private readonly double[] _h = new double[order.Count * order.Count];
    private readonly double[] _gradient = new double[order.Count];

    /// <summary>Row by row of the shape, one column a degree of freedom; all zero between frames.</summary>
    private readonly double[] _coupling = new double[order.Count * model.DofCount];

    public void Clear()
    {
        Array.Clear(_h);
        Array.Clear(_gradient);
    }

    /// <summary>Adds a frame and keeps what its pose will move by. False when its block cannot be factored.</summary>
    public bool Add(Frame frame, ReadOnlySpan<Vector3d> targets, double lambda)
    {
        solver.Linearise(frame.Pose, targets, out var equations);
        if (!frame.Factor.Of(equations, lambda))
        {
            return false;
        }

        for (var i = 0; i < model.MarkerCount; i++)
        {
            if (solver.Weights[i] > 0)
            {
                AddMarker(i, lambda);
            }
        }

        Halve(frame, equations);
        for (var d = 0; d < _n; d++)
        {
            var row = frame.Half.AsSpan(d * _g, _g);
            var ((start, end), above) = (order.Runs[d], order.Above[d]);
            DenseCholesky.AddScaled(_gradient, row, -frame.Local[d]);
            for (var x = 0; x < above.Length; x++)
            {
                var (p, v) = (above[x], row[above[x]]);
                var to = _h.AsSpan(p * _g, _g);
                foreach (var q in above.AsSpan(x))
                {
                    to[q] -= v * row[q];
                }

                DenseCholesky.AddScaled(to[start..end], row[start..end], -v);
            }

            for (var p = start; p < end; p++)
            {
                DenseCholesky.AddScaled(_h.AsSpan((p * _g) + p, end - p), row[p..end], -row[p]);
            }
        }

        return true;
    }

    /// <summary>Adds these sums to a lower triangle and a gradient as the shape numbers its unknowns.</summary>
    public void AddTo(double[] hessian, double[] gradient)
    {
        var terms = order.Terms;
        for (var p = 0; p < _g; p++)
        {
            gradient[terms[p]] += _gradient[p];
            for (var q = p; q < _g; q++)
            {
                hessian[(Math.Max(terms[p], terms[q]) * _g) + Math.Min(terms[p], terms[q])] += _h[(p * _g) + q];
            }
        }
    }

    /// <summary>Moves the pose of a frame by what follows from a step of the shape.</summary>
    /// <param name="delta">The step, as the shape numbers its unknowns.</param>
    public void Move(Frame frame, ReadOnlySpan<double> delta)
    {
        Span<double> sorted = stackalloc double[_g];
        for (var p = 0; p < _g; p++)
        {
            sorted[p] = delta[order.Terms[p]];
        }

        var step = new double[_n];
        for (var d = 0; d < _n; d++)
        {
            step[d] = -frame.Local[d] - DenseCholesky.Dot(frame.Half.AsSpan(d * _g, _g), sorted);
        }

        frame.Factor.SecondHalf(step);
        frame.Trial.Step(model, frame.Pose, step);
    }

    private void AddMarker(int i, double lambda)
    {
        var (k, w, terms) = (solver.Kinematics, solver.Weights[i], order.TermsOf[i]);
        Span<Vector3d> direction = stackalloc Vector3d[terms.Length];
        for (var a = 0; a < terms.Length; a++)
        {
            var t = shape.Terms[order.Terms[terms[a]]];
            direction[a] = k.Rotation[t.Joint >= 0 ? model.Parents[t.Joint] : model.MarkerJoints[i]] * t.Direction;
            _gradient[terms[a]] += w * Vector3d.Dot(direction[a], solver.Residuals[i]);
            for (var b = 0; b <= a; b++)
            {
                var v = w * Vector3d.Dot(direction[a], direction[b]);
                _h[(terms[b] * _g) + terms[a]] += a == b ? v * (1 + lambda) : v;
            }
        }

        foreach (var d in order.DofsOf[i])
        {
            var j = (k.Linear[d] + Vector3d.Cross(k.Angular[d], k.Markers[i])) * w;
            for (var a = 0; a < terms.Length; a++)
            {
                _coupling[(terms[a] * _n) + d] += Vector3d.Dot(j, direction[a]);
            }
        }
    }

    /// <summary>Half of C⁻¹ on both sides: what is left to do is a sum of products.</summary>
    private void Halve(Frame frame, TreeNormalEquations equations)
    {
        equations.Gradient.CopyTo(frame.Local, 0);
        frame.Factor.FirstHalf(frame.Local, order.All);
        for (var p = 0; p < _g; p++)
        {
            var column = _coupling.AsSpan(p * _n, _n);
            frame.Factor.FirstHalf(column, order.Supports[p]);
            foreach (var d in order.Supports[p])
            {
                frame.Half[(d * _g) + p] = column[d];
                column[d] = 0;
            }
        }
    }

    /// <summary>One frame of the fit: its pose, the pose that is tried, and its share of the last equations.</summary>
    internal sealed class Frame(ArticulatedModel model, ModelPose pose, int unknowns)
    {
        public ModelPose Pose { get; } = pose;

        public ModelPose Trial { get; } = new(model);

        public TreeFactor Factor { get; } = new(model);

        /// <summary>Half of C⁻¹ times the gradient of the pose.</summary>
        public double[] Local { get; } = new double[model.DofCount];

        /// <summary>Half of C⁻¹ times E: a row for each degree of freedom. What is zero stays so.</summary>
        public double[] Half { get; } = new double[model.DofCount * unknowns];
    }
}
