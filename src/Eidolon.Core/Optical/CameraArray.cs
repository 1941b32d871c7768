using System.Numerics;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Optical;

/// <summary>The cameras of a ring side by side, one array a quantity, padded to whole SIMD vectors.</summary>
internal sealed class CameraArray
{
    public CameraArray(IReadOnlyList<CameraModel> cameras)
    {
        Count = cameras.Count;
        var lanes = Vector<double>.Count;
        Padded = (Count + lanes - 1) / lanes * lanes;
        Rows = new double[12][];
        for (var k = 0; k < 12; k++)
        {
            Rows[k] = new double[Padded];
        }

        Focal = new double[Padded];
        for (var c = 0; c < Padded; c++)
        {
            // Padding repeats a camera; its weight is always zero.
            var m = cameras[Math.Min(c, Count - 1)];
            Focal[c] = m.Focal;
            for (var axis = 0; axis < 3; axis++)
            {
                var column = m.Rotation.Column(axis);
                (Rows[axis][c], Rows[4 + axis][c], Rows[8 + axis][c]) = (column.X, column.Y, column.Z);
            }

            (Rows[3][c], Rows[7][c], Rows[11][c]) = (m.Translation.X, m.Translation.Y, m.Translation.Z);
        }
    }

    public int Count { get; }

    public int Padded { get; }

    /// <summary>[3·4][camera]: the rows of R and t: r00 r01 r02 t0 r10 …</summary>
    public double[][] Rows { get; }

    public double[] Focal { get; }
}
