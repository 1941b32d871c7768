using System.Numerics;

namespace Eidolon.Core.Geometry;

/// <summary>A unit quaternion in doubles, for work inside least squares.</summary>
public readonly record struct Quaterniond(double X, double Y, double Z, double W)
{
    /// <summary>Turns nothing.</summary>
    public static Quaterniond Identity { get; } = new(0, 0, 0, 1);

    /// <summary>First <paramref name="b"/>, then <paramref name="a"/>.</summary>
    public static Quaterniond operator *(Quaterniond a, Quaterniond b) =>
        new(
            (a.W * b.X) + (a.X * b.W) + (a.Y * b.Z) - (a.Z * b.Y),
            (a.W * b.Y) - (a.X * b.Z) + (a.Y * b.W) + (a.Z * b.X),
            (a.W * b.Z) + (a.X * b.Y) - (a.Y * b.X) + (a.Z * b.W),
            (a.W * b.W) - (a.X * b.X) - (a.Y * b.Y) - (a.Z * b.Z)
        );

    /// <summary>The same turn in double precision.</summary>
    public static implicit operator Quaterniond(Quaternion q) => new(q.X, q.Y, q.Z, q.W);

    /// <summary>The turn back, for one of unit length.</summary>
    public Quaterniond Conjugate() => new(-X, -Y, -Z, W);

    /// <summary>The same turn in single precision, of unit length.</summary>
    public Quaternion ToSingle() => Quaternion.Normalize(new Quaternion((float)X, (float)Y, (float)Z, (float)W));

    /// <summary>The same turn with unit length.</summary>
    public Quaterniond Normalized()
    {
        var n = 1 / Math.Sqrt((X * X) + (Y * Y) + (Z * Z) + (W * W));
        return new(X * n, Y * n, Z * n, W * n);
    }

    /// <summary>The turn about a vector by its length, radians.</summary>
    public static Quaterniond Exp(double x, double y, double z)
    {
        var a = Math.Sqrt((x * x) + (y * y) + (z * z));
        if (a < 1e-9)
        {
            return new Quaterniond(x * 0.5, y * 0.5, z * 0.5, 1).Normalized();
        }

        var (s, c) = Math.SinCos(a * 0.5);
        s /= a;
        return new(x * s, y * s, z * s, c);
    }

    /// <summary>The vector a turn is about, as long as the turn in radians, 0 to π; the inverse of <see cref="Exp"/>.</summary>
    public Vector3d Log()
    {
        var sign = W < 0 ? -1.0 : 1.0;
        var s = Math.Sqrt((X * X) + (Y * Y) + (Z * Z));
        var k = sign * (s < 1e-9 ? 2 : 2 * Math.Atan2(s, W * sign) / s);
        return new(X * k, Y * k, Z * k);
    }

    /// <summary>The same turn as a matrix, for one of unit length.</summary>
    public Matrix3d ToMatrix()
    {
        double xx = X * X,
            yy = Y * Y,
            zz = Z * Z,
            xy = X * Y,
            xz = X * Z,
            yz = Y * Z,
            wx = W * X,
            wy = W * Y,
            wz = W * Z;
        return new(
            new(1 - (2 * (yy + zz)), 2 * (xy + wz), 2 * (xz - wy)),
            new(2 * (xy - wz), 1 - (2 * (xx + zz)), 2 * (yz + wx)),
            new(2 * (xz + wy), 2 * (yz - wx), 1 - (2 * (xx + yy)))
        );
    }
}
