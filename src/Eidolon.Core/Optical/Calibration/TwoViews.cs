using Eidolon.Core.Geometry;
using MathNet.Numerics.LinearAlgebra;

namespace Eidolon.Core.Optical.Calibration;

/// <summary>The pose of a second camera against a first one from points both saw, up to scale.</summary>
/// <remarks>Longuet-Higgins 1981; Hartley, "In defense of the eight-point algorithm", 1997; RANSAC after Fischler &amp; Bolles 1981.</remarks>
internal static class TwoViews
{
    /// <summary>Finds R, t with x2 ~ R·x1 + t, |t| = 1, and which points agree; null when there is no such pose.</summary>
    /// <param name="x1">Directions at unit depth in the first camera.</param>
    /// <param name="gate">Largest epipolar distance, at unit depth.</param>
    public static (Matrix3d R, Vector3d T, int Inliers)? Pose(
        IReadOnlyList<(double X, double Y)> x1,
        IReadOnlyList<(double X, double Y)> x2,
        double gate,
        int seed
    )
    {
        if (x1.Count < 24)
        {
            return null;
        }

        var random = new Random(seed);
        Matrix<double>? best = null;
        var most = 0;
        var pick = new int[8];
        for (var round = 0; round < 160; round++)
        {
            for (var i = 0; i < 8; i++)
            {
                pick[i] = random.Next(x1.Count);
            }

            var e = Essential(x1, x2, pick);
            var inliers = Count(e, x1, x2, gate);
            if (inliers > most)
            {
                (best, most) = (e, inliers);
            }
        }

        if (best is null || most < x1.Count / 3)
        {
            return null;
        }

        // Once more with all that agree.
        var good = Enumerable.Range(0, x1.Count).Where(i => Distance(best, x1[i], x2[i]) < gate).ToArray();
        var all = Essential(x1, x2, good);
        var count = Count(all, x1, x2, gate);
        return Decompose(count >= most ? all : best, x1, x2, good) is var (r, t) ? (r, t, Math.Max(count, most)) : null;
    }

    private static Matrix<double> Essential(
        IReadOnlyList<(double X, double Y)> x1,
        IReadOnlyList<(double X, double Y)> x2,
        IReadOnlyList<int> pick
    )
    {
        var ata = Matrix<double>.Build.Dense(9, 9);
        Span<double> row = stackalloc double[9];
        foreach (var i in pick)
        {
            var (a, b) = (x1[i], x2[i]);
            (row[0], row[1], row[2], row[3], row[4], row[5], row[6], row[7], row[8]) = (
                b.X * a.X,
                b.X * a.Y,
                b.X,
                b.Y * a.X,
                b.Y * a.Y,
                b.Y,
                a.X,
                a.Y,
                1
            );
            for (var r = 0; r < 9; r++)
            {
                for (var c = 0; c < 9; c++)
                {
                    ata[r, c] += row[r] * row[c];
                }
            }
        }

        var v = ata.Evd(Symmetricity.Symmetric).EigenVectors.Column(0);
        var e = Matrix<double>.Build.Dense(3, 3, (r, c) => v[(r * 3) + c]);
        var svd = e.Svd();
        return svd.U * Matrix<double>.Build.DenseOfDiagonalArray([1, 1, 0]) * svd.VT;
    }

    private static int Count(Matrix<double> e, IReadOnlyList<(double X, double Y)> x1, IReadOnlyList<(double X, double Y)> x2, double gate)
    {
        var n = 0;
        for (var i = 0; i < x1.Count; i++)
        {
            n += Distance(e, x1[i], x2[i]) < gate ? 1 : 0;
        }

        return n;
    }

    /// <summary>Sampson's distance.</summary>
    private static double Distance(Matrix<double> e, (double X, double Y) a, (double X, double Y) b)
    {
        double l0 = (e[0, 0] * a.X) + (e[0, 1] * a.Y) + e[0, 2],
            l1 = (e[1, 0] * a.X) + (e[1, 1] * a.Y) + e[1, 2],
            l2 = (e[2, 0] * a.X) + (e[2, 1] * a.Y) + e[2, 2];
        double m0 = (e[0, 0] * b.X) + (e[1, 0] * b.Y) + e[2, 0],
            m1 = (e[0, 1] * b.X) + (e[1, 1] * b.Y) + e[2, 1];
        var s = (b.X * l0) + (b.Y * l1) + l2;
        return Math.Abs(s) / Math.Sqrt((l0 * l0) + (l1 * l1) + (m0 * m0) + (m1 * m1) + 1e-18);
    }

    /// <summary>Of the four poses the one with the points in front of both cameras.</summary>
    private static (Matrix3d, Vector3d)? Decompose(
        Matrix<double> e,
        IReadOnlyList<(double X, double Y)> x1,
        IReadOnlyList<(double X, double Y)> x2,
        IReadOnlyList<int> good
    )
    {
        var svd = e.Svd();
        var (u, vt) = (svd.U, svd.VT);
        u = u.Determinant() < 0 ? u * -1 : u;
        vt = vt.Determinant() < 0 ? vt * -1 : vt;
        var w = Matrix<double>.Build.DenseOfArray(
            new double[,]
            {
                { 0, -1, 0 },
                { 1, 0, 0 },
                { 0, 0, 1 },
            }
        );
        (Matrix3d, Vector3d)? best = null;
        var most = 0;
        foreach (var turn in new[] { u * w * vt, u * w.Transpose() * vt })
        {
            foreach (var sign in new[] { 1.0, -1.0 })
            {
                var r = Matrix3d.FromRows(
                    new(turn[0, 0], turn[0, 1], turn[0, 2]),
                    new(turn[1, 0], turn[1, 1], turn[1, 2]),
                    new(turn[2, 0], turn[2, 1], turn[2, 2])
                );
                var t = new Vector3d(u[0, 2], u[1, 2], u[2, 2]) * sign;
                var front = good.Count(i => Depths(r, t, x1[i], x2[i]) is { A: > 0, B: > 0 });
                if (front > most)
                {
                    (best, most) = ((r, t), front);
                }
            }
        }

        return most > good.Count * 0.7 ? best : null;
    }

    /// <summary>Depths of the nearest points of both rays.</summary>
    public static (double A, double B) Depths(Matrix3d r, Vector3d t, (double X, double Y) a, (double X, double Y) b)
    {
        // Second camera's frame: ray one begins at t with direction R·a, ray two at 0 with direction b.
        var d1 = r * new Vector3d(a.X, a.Y, 1);
        var d2 = new Vector3d(b.X, b.Y, 1);
        double aa = Vector3d.Dot(d1, d1),
            bb = Vector3d.Dot(d2, d2),
            ab = Vector3d.Dot(d1, d2),
            at = Vector3d.Dot(d1, t),
            bt = Vector3d.Dot(d2, t);
        var det = (aa * bb) - (ab * ab);
        return (((ab * bt) - (bb * at)) / det, ((aa * bt) - (ab * at)) / det);
    }
}
