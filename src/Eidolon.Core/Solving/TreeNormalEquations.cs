using Eidolon.Core.Geometry;

namespace Eidolon.Core.Solving;

/// <summary>
/// Normal equations JᵀWJ of point targets on a kinematic tree without ever forming J: the points below a degree of freedom act as one
/// composite rigid body, so each entry costs a dozen operations. The matrix has the sparsity of the tree: <see cref="TreeFactor"/>.
/// </summary>
/// <remarks>Featherstone, "Rigid Body Dynamics Algorithms", 2008: composite rigid body algorithm (ch. 6).</remarks>
internal sealed class TreeNormalEquations
{
    private readonly ArticulatedModel _model;
    private readonly int _n;
    private readonly Body[] _bodies;
    private readonly TreeFactor _factor;

    public TreeNormalEquations(ArticulatedModel model)
    {
        _model = model;
        _n = model.DofCount;
        _bodies = new Body[model.JointCount];
        Hessian = new double[model.Rows.Length];
        _factor = new TreeFactor(model);
        Gradient = new double[_n];
    }

    /// <summary>Entries of each degree of freedom with its ancestors and itself, as <see cref="TreeRows"/> lays them.</summary>
    public double[] Hessian { get; }

    /// <summary>Jᵀ W r.</summary>
    public double[] Gradient { get; }

    /// <summary>Builds both from world places, weights and residuals (model − target) of the markers.</summary>
    public void Build(ModelKinematics kinematics, ReadOnlySpan<double> weights, ReadOnlySpan<Vector3d> residuals)
    {
        var m = _model;
        Array.Clear(_bodies);
        for (var i = 0; i < weights.Length; i++)
        {
            if (weights[i] > 0)
            {
                _bodies[m.MarkerJoints[i]].Add(kinematics.Markers[i], weights[i], residuals[i]);
            }
        }

        for (var j = m.JointCount - 1; j >= 0; j--)
        {
            ref readonly var body = ref _bodies[j];
            var first = m.FirstDof[j];
            var end = first + m.Freedoms[j].Count;
            for (var d = first; d < end; d++)
            {
                var w = kinematics.Angular[d];
                var v = kinematics.Linear[d];
                Gradient[d] = Vector3d.Dot(v, body.Force) + Vector3d.Dot(w, body.Moment);
                var f = (v * body.Weight) + Vector3d.Cross(w, body.First);
                var n = Vector3d.Cross(body.First, v) + body.Turn(w);
                var chain = m.Rows.Chains[d];
                var row = Hessian.AsSpan(m.Rows.Starts[d], chain.Length);
                for (var a = 0; a < chain.Length; a++)
                {
                    row[a] = Vector3d.Dot(kinematics.Linear[chain[a]], f) + Vector3d.Dot(kinematics.Angular[chain[a]], n);
                }
            }

            if (m.Parents[j] >= 0)
            {
                _bodies[m.Parents[j]].Add(in body);
            }
        }
    }

    /// <summary>Solves (H + λ·diag(H)) x = −g along the tree. False when a pivot is not positive.</summary>
    public bool Solve(double lambda, Span<double> step)
    {
        if (!_factor.Of(this, lambda))
        {
            return false;
        }

        for (var k = 0; k < _n; k++)
        {
            step[k] = -Gradient[k];
        }

        _factor.Solve(step);
        return true;
    }

    /// <summary>Weighted points seen as one body about the world origin.</summary>
    private struct Body
    {
        public double Weight;
        public Vector3d First;
        public Vector3d Force;
        public Vector3d Moment;
        private double _xx,
            _yy,
            _zz,
            _xy,
            _xz,
            _yz;

        public void Add(Vector3d p, double w, Vector3d residual)
        {
            Weight += w;
            First += p * w;
            _xx += w * p.X * p.X;
            _yy += w * p.Y * p.Y;
            _zz += w * p.Z * p.Z;
            _xy += w * p.X * p.Y;
            _xz += w * p.X * p.Z;
            _yz += w * p.Y * p.Z;
            var f = residual * w;
            Force += f;
            Moment += Vector3d.Cross(p, f);
        }

        public void Add(in Body b)
        {
            Weight += b.Weight;
            First += b.First;
            Force += b.Force;
            Moment += b.Moment;
            _xx += b._xx;
            _yy += b._yy;
            _zz += b._zz;
            _xy += b._xy;
            _xz += b._xz;
            _yz += b._yz;
        }

        /// <summary>Σ w p × (ω × p).</summary>
        public readonly Vector3d Turn(Vector3d w) =>
            new(
                ((_yy + _zz) * w.X) - (_xy * w.Y) - (_xz * w.Z),
                ((_xx + _zz) * w.Y) - (_xy * w.X) - (_yz * w.Z),
                ((_xx + _yy) * w.Z) - (_xz * w.X) - (_yz * w.Y)
            );
    }
}
