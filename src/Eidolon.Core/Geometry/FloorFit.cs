using System.Numerics;

namespace Eidolon.Core.Geometry;

/// <summary>
/// Lays one cloud of points on another by a turn about the vertical and a move over the floor, in closed form. It is made of sums, so windows of
/// pairs can be added up and taken out again.
/// </summary>
/// <remarks>Kovar, Gleicher and Pighin, "Motion Graphs", 2002, section 3.1; all points weigh the same.</remarks>
public struct FloorFit
{
    private double _ax,
        _az,
        _bx,
        _bz,
        _squares,
        _cos,
        _sin,
        _points;

    /// <summary>How far the points are apart once they are laid on each other, RMS, metres; 0 without points.</summary>
    public readonly double Distance
    {
        get
        {
            if (_points <= 0)
            {
                return 0;
            }

            var centred = _squares - (((_ax * _ax) + (_az * _az) + (_bx * _bx) + (_bz * _bz)) / _points);
            return Math.Sqrt(Math.Max(0, centred - (2 * Math.Sqrt((Cos * Cos) + (Sin * Sin)))) / _points);
        }
    }

    private readonly double Cos => _cos - (((_ax * _bx) + (_az * _bz)) / _points);

    private readonly double Sin => _sin - (((_ax * _bz) - (_az * _bx)) / _points);

    /// <summary>Adds pairs of points, or takes them out.</summary>
    /// <param name="a">Points that stay.</param>
    /// <param name="b">Points that are laid on them, as many.</param>
    /// <param name="sign">1 adds, −1 takes out.</param>
    public void Add(ReadOnlySpan<Vector3> a, ReadOnlySpan<Vector3> b, int sign = 1)
    {
        double ax = 0,
            az = 0,
            bx = 0,
            bz = 0,
            squares = 0,
            cos = 0,
            sin = 0;
        for (var k = 0; k < a.Length; k++)
        {
            double px = a[k].X,
                pz = a[k].Z,
                qx = b[k].X,
                qz = b[k].Z,
                y = a[k].Y - b[k].Y;
            ax += px;
            az += pz;
            bx += qx;
            bz += qz;
            squares += (px * px) + (pz * pz) + (qx * qx) + (qz * qz) + (y * y);
            cos += (px * qx) + (pz * qz);
            sin += (px * qz) - (pz * qx);
        }

        _ax += sign * ax;
        _az += sign * az;
        _bx += sign * bx;
        _bz += sign * bz;
        _squares += sign * squares;
        _cos += sign * cos;
        _sin += sign * sin;
        _points += sign * a.Length;
    }

    /// <summary>The turn about the vertical and then the move that lay the second points on the first.</summary>
    public readonly (Quaternion Turn, Vector3 Move) Lay()
    {
        if (_points <= 0)
        {
            return (Quaternion.Identity, Vector3.Zero);
        }

        var turn = Rotations.AboutAxis(1, Math.Atan2(Sin, Cos));
        var middle = Vector3.Transform(new Vector3((float)(_bx / _points), 0, (float)(_bz / _points)), turn);
        return (turn, new Vector3((float)(_ax / _points), 0, (float)(_az / _points)) - middle);
    }
}
