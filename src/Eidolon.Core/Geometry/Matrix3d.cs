namespace Eidolon.Core.Geometry;

/// <summary>A 3×3 rotation by columns, for work inside least squares.</summary>
public readonly record struct Matrix3d(Vector3d X, Vector3d Y, Vector3d Z)
{
    public static Matrix3d Identity { get; } = new(new(1, 0, 0), new(0, 1, 0), new(0, 0, 1));

    public static Vector3d operator *(Matrix3d m, Vector3d v) => new(
        (m.X.X * v.X) + (m.Y.X * v.Y) + (m.Z.X * v.Z),
        (m.X.Y * v.X) + (m.Y.Y * v.Y) + (m.Z.Y * v.Z),
        (m.X.Z * v.X) + (m.Y.Z * v.Y) + (m.Z.Z * v.Z));

    public static Matrix3d operator *(Matrix3d a, Matrix3d b) => new(a * b.X, a * b.Y, a * b.Z);

    /// <summary>The column of a coordinate axis.</summary>
    public Vector3d Column(int axis) => axis switch { 0 => X, 1 => Y, _ => Z };

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
