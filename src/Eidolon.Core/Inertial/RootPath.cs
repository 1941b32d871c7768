using System.Numerics;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Inertial;

/// <summary>The way of a body's root by least squares: accelerations that hold it together, and steps where something stands still. Metres, seconds.</summary>
internal sealed class RootPath
{
    private const int Width = 2;
    private const int Row = Width + 1;
    private readonly int _count;
    private readonly double _rate;
    private readonly double[] _matrix;
    private readonly double[][] _right;

    public RootPath(int frames, double rate)
    {
        (_count, _rate) = (frames, rate);
        _matrix = new double[frames * Row];
        _right = [new double[frames], new double[frames], new double[frames]];
    }

    /// <summary>p(f − 1) − 2 p(f) + p(f + 1) is the acceleration.</summary>
    /// <param name="sigma">How far the acceleration may be off, m/s².</param>
    public void Accelerate(int frame, Vector3 acceleration, double sigma)
    {
        if (frame < 1 || frame + 1 >= _count)
        {
            return;
        }

        var scale = _rate * _rate / sigma;
        Add(frame - 1, [scale, -2 * scale, scale], acceleration / (float)sigma);
    }

    /// <summary>p(f + 1) − p(f) is the step.</summary>
    /// <param name="speed">How far its speed may be off, m/s.</param>
    public void Step(int frame, Vector3 step, double speed)
    {
        var scale = _rate / speed;
        Add(frame, [-scale, scale], step * (float)scale);
    }

    /// <summary>p(f) is the place.</summary>
    /// <param name="sigma">Metres.</param>
    public void Place(int frame, Vector3 place, double sigma) => Add(frame, [1 / sigma], place / (float)sigma);

    /// <summary>The path that fits all of it best.</summary>
    public Vector3[] Solve()
    {
        for (var f = 0; f < _count; f++)
        {
            // Where nothing is known the path stays near where it began.
            _matrix[(f * Row) + Width] += 1e-9;
        }

        if (!BandCholesky.Factor(_matrix, _count, Width))
        {
            throw new ArithmeticException("The root's path has no solution.");
        }

        foreach (var axis in _right)
        {
            BandCholesky.Solve(_matrix, _count, Width, axis);
        }

        return [.. Enumerable.Range(0, _count).Select(f => new Vector3((float)_right[0][f], (float)_right[1][f], (float)_right[2][f]))];
    }

    private void Add(int first, ReadOnlySpan<double> row, Vector3 value)
    {
        for (var i = 0; i < row.Length; i++)
        {
            for (var j = 0; j <= i; j++)
            {
                _matrix[((first + i) * Row) + Width - (i - j)] += row[i] * row[j];
            }

            _right[0][first + i] += row[i] * value.X;
            _right[1][first + i] += row[i] * value.Y;
            _right[2][first + i] += row[i] * value.Z;
        }
    }
}
