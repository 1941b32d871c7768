using Eidolon.Core.Geometry;
using MathNet.Numerics.LinearAlgebra;

namespace Eidolon.Core.Optical.Calibration;

/// <summary>Where a camera stands from known points in its picture.</summary>
/// <remarks>Direct linear transform, Abdel-Aziz &amp; Karara 1971, with the rotation made orthogonal; RANSAC against wrong sightings.</remarks>
internal static class Resection
{
    /// <summary>World-to-camera pose, or null when the points do not tell one.</summary>
    public static (Matrix3d R, Vector3d T)? Pose(
        IReadOnlyList<Vector3d> points,
        IReadOnlyList<(double X, double Y)> picture,
        double gate,
        int seed
    )
    {
        if (points.Count < 18)
        {
            return null;
        }

        var random = new Random(seed);
        (Matrix3d R, Vector3d T)? best = null;
        var most = 0;
        var pick = new int[8];
        for (var round = 0; round < 80; round++)
        {
            for (var i = 0; i < pick.Length; i++)
            {
                pick[i] = random.Next(points.Count);
            }

            if (Linear(points, picture, pick) is { } pose)
            {
                var inliers = Inliers(pose, points, picture, gate).Length;
                if (inliers > most)
                {
                    (best, most) = (pose, inliers);
                }
            }
        }

        if (best is null || most < points.Count / 3)
        {
            return null;
        }

        return Linear(points, picture, Inliers(best.Value, points, picture, gate)) ?? best;
    }

    private static int[] Inliers(
        (Matrix3d R, Vector3d T) pose,
        IReadOnlyList<Vector3d> points,
        IReadOnlyList<(double X, double Y)> picture,
        double gate
    ) =>
        [
            .. Enumerable
                .Range(0, points.Count)
                .Where(i =>
                {
                    var c = (pose.R * points[i]) + pose.T;
                    return c.Z > 0.05 && Math.Abs((c.X / c.Z) - picture[i].X) < gate && Math.Abs((c.Y / c.Z) - picture[i].Y) < gate;
                }),
        ];

    private static (Matrix3d R, Vector3d T)? Linear(IReadOnlyList<Vector3d> points, IReadOnlyList<(double X, double Y)> picture, int[] pick)
    {
        Vector3d mean = default;
        foreach (var i in pick)
        {
            mean += points[i] * (1.0 / pick.Length);
        }

        var ata = Matrix<double>.Build.Dense(12, 12);
        Span<double> row = stackalloc double[12];
        foreach (var i in pick)
        {
            var p = points[i] - mean;
            for (var half = 0; half < 2; half++)
            {
                var o = half == 0 ? picture[i].X : picture[i].Y;
                row.Clear();
                (row[half * 4], row[(half * 4) + 1], row[(half * 4) + 2], row[(half * 4) + 3]) = (p.X, p.Y, p.Z, 1);
                (row[8], row[9], row[10], row[11]) = (-o * p.X, -o * p.Y, -o * p.Z, -o);
                for (var r = 0; r < 12; r++)
                {
                    for (var c = 0; c < 12; c++)
                    {
                        ata[r, c] += row[r] * row[c];
                    }
                }
            }
        }

        var v = ata.Evd(Symmetricity.Symmetric).EigenVectors.Column(0);
        var m = Matrix<double>.Build.Dense(3, 3, (r, c) => v[(r * 4) + c]);
        var svd = m.Svd();
        var turn = svd.U * svd.VT;
        var scale = svd.S.Sum() / 3;
        if (turn.Determinant() < 0)
        {
            (turn, scale) = (turn * -1, -scale);
        }

        if (Math.Abs(scale) < 1e-12)
        {
            return null;
        }

        var rot = Matrix3d.FromRows(
            new(turn[0, 0], turn[0, 1], turn[0, 2]),
            new(turn[1, 0], turn[1, 1], turn[1, 2]),
            new(turn[2, 0], turn[2, 1], turn[2, 2])
        );
        var t = new Vector3d(v[3], v[7], v[11]) * (1 / scale);
        return t.Z <= 0 ? null : (rot, t - (rot * mean));
    }
}
