using Eidolon.Core.Geometry;
using MathNet.Numerics.LinearAlgebra;

namespace Eidolon.Core.Inertial;

/// <summary>
/// By how much an orientation that was integrated from a gyroscope is off, over time: a small turn e in the world and what is left of the gyroscope's
/// bias b, at knots a quarter of a second apart. Forwards as a Kalman filter, backwards as its smoother, so that each moment knows the whole take.
/// </summary>
/// <remarks>Rauch, Tung &amp; Striebel 1965; the error state after Madyastha et al., "Extended Kalman filter vs. error state Kalman filter", 2011.</remarks>
internal sealed class ErrorSmoother
{
    private const int States = 6;
    private readonly List<Knot> _knots = [];
    private Vector<double> _x;
    private Matrix<double> _p;

    /// <param name="turn">How far the first orientation may be off, radians.</param>
    /// <param name="bias">How far the bias may be off, rad/s.</param>
    public ErrorSmoother(double turn, double bias)
    {
        _x = Vector<double>.Build.Dense(States);
        _p = Matrix<double>.Build.DenseDiagonal(States, States, i => i < 3 ? turn * turn : bias * bias);
    }

    /// <summary>Goes on to the next knot.</summary>
    /// <param name="reach">What a unit of bias, in the sensor's axes, turns in the world until then: the sum of R over the time, seconds.</param>
    /// <param name="turnVariance">Variance of the turn gathered until then, rad².</param>
    /// <param name="biasVariance">Variance of the bias' change, (rad/s)².</param>
    public void Go(Matrix3d reach, double turnVariance, double biasVariance)
    {
        var a = Matrix<double>.Build.DenseIdentity(States);
        for (var c = 0; c < 3; c++)
        {
            var column = reach.Column(c);
            (a[0, 3 + c], a[1, 3 + c], a[2, 3 + c]) = (-column.X, -column.Y, -column.Z);
        }

        var (before, spread) = (_x, _p);
        _x = a * before;
        _p = a * spread * a.Transpose();
        for (var i = 0; i < States; i++)
        {
            _p[i, i] += i < 3 ? turnVariance : biasVariance;
        }

        _knots.Add(new Knot(before, spread, a, _x.Clone(), _p.Clone()));
    }

    /// <summary>One measured number that depends on the turn only: row · e = value.</summary>
    public void See(Vector3d row, double value, double variance)
    {
        var h = Vector<double>.Build.Dense([row.X, row.Y, row.Z, 0, 0, 0]);
        var ph = _p * h;
        var s = (h * ph) + variance;
        var gain = ph / s;
        _x += gain * (value - (h * _x));
        _p -= gain.OuterProduct(ph);
    }

    /// <summary>Turn and bias at each knot, the first one before the first <see cref="Go"/>.</summary>
    public (Vector3d Turn, Vector3d Bias)[] Smooth()
    {
        var result = new (Vector3d, Vector3d)[_knots.Count + 1];
        var next = _x;
        result[^1] = Split(next);
        for (var k = _knots.Count - 1; k >= 0; k--)
        {
            var knot = _knots[k];
            // G = P Aᵀ P₊⁻¹, by a solve with the symmetric P₊.
            var gain = knot.PredictedSpread.Cholesky().Solve(knot.Way * knot.Spread).Transpose();
            next = knot.Turn + (gain * (next - knot.Predicted));
            result[k] = Split(next);
        }

        return result;
    }

    private static (Vector3d, Vector3d) Split(Vector<double> x) => (new(x[0], x[1], x[2]), new(x[3], x[4], x[5]));

    private sealed record Knot(
        Vector<double> Turn,
        Matrix<double> Spread,
        Matrix<double> Way,
        Vector<double> Predicted,
        Matrix<double> PredictedSpread
    );
}
