namespace Eidolon.Core.Geometry;

/// <summary>A 3×3 rotation by columns, for work inside least squares.</summary>
public readonly record struct Matrix3d(Vector3d X, Vector3d Y, Vector3d Z)
{
    /// <summary>Turns nothing.</summary>
    public static Matrix3d Identity { get; } = new(new(1, 0, 0), new(0, 1, 0), new(0, 0, 1));

    /// <summary>Turns a vector.</summary>
    public static Vector3d operator *(Matrix3d m, Vector3d v) =>
        new(
            (m.X.X * v.X) + (m.Y.X * v.Y) + (m.Z.X * v.Z),
            (m.X.Y * v.X) + (m.Y.Y * v.Y) + (m.Z.Y * v.Z),
            (m.X.Z * v.X) + (m.Y.Z * v.Y) + (m.Z.Z * v.Z)
        );

    /// <summary>First <paramref name="b"/>, then <paramref name="a"/>.</summary>
    public static Matrix3d operator *(Matrix3d a, Matrix3d b) => new(a * b.X, a * b.Y, a * b.Z);

    /// <summary>The inverse of a rotation.</summary>
    public Matrix3d Transposed => FromRows(X, Y, Z);

    /// <summary>The matrix whose rows these are.</summary>
    public static Matrix3d FromRows(Vector3d x, Vector3d y, Vector3d z) => new(new(x.X, y.X, z.X), new(x.Y, y.Y, z.Y), new(x.Z, y.Z, z.Z));

    /// <summary>Rodrigues' formula: the turn about a vector by its length, radians.</summary>
    public static Matrix3d FromRotationVector(Vector3d w)
    {
        var angle = w.Length;
        var (s, c) = Math.SinCos(angle);
        // sin(a)/a and (1 − cos(a))/a² by their series near zero.
        var a = angle < 1e-6 ? 1 - (angle * angle / 6) : s / angle;
        var b = angle < 1e-4 ? 0.5 - (angle * angle / 24) : (1 - c) / (angle * angle);
        return new(
            new(1 - (b * ((w.Y * w.Y) + (w.Z * w.Z))), (a * w.Z) + (b * w.X * w.Y), (b * w.X * w.Z) - (a * w.Y)),
            new((b * w.X * w.Y) - (a * w.Z), 1 - (b * ((w.X * w.X) + (w.Z * w.Z))), (a * w.X) + (b * w.Y * w.Z)),
            new((a * w.Y) + (b * w.X * w.Z), (b * w.Y * w.Z) - (a * w.X), 1 - (b * ((w.X * w.X) + (w.Y * w.Y))))
        );
    }

    /// <summary>The column of a coordinate axis.</summary>
    public Vector3d Column(int axis) =>
        axis switch
        {
            0 => X,
            1 => Y,
            _ => Z,
        };

    /// <summary>Rodrigues' formula for one coordinate axis applied on the right: this · R(axis, angle).</summary>
    public Matrix3d TurnedAbout(int axis, double angle)
    {
        var (s, c) = Math.SinCos(angle);
        return axis switch
        {
            0 => new(X, (Y * c) + (Z * s), (Z * c) - (Y * s)),
            1 => new((X * c) - (Z * s), Y, (Z * c) + (X * s)),
            _ => new((X * c) + (Y * s), (Y * c) - (X * s), Z),
        };
    }
}
