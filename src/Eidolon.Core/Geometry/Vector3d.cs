using System.Numerics;

namespace Eidolon.Core.Geometry;

/// <summary>Three doubles, for work inside least squares.</summary>
public readonly record struct Vector3d(double X, double Y, double Z)
{
    /// <summary>Sum.</summary>
    public static Vector3d operator +(Vector3d a, Vector3d b) => new(a.X + b.X, a.Y + b.Y, a.Z + b.Z);

    /// <summary>Difference.</summary>
    public static Vector3d operator -(Vector3d a, Vector3d b) => new(a.X - b.X, a.Y - b.Y, a.Z - b.Z);

    /// <summary>Scaled.</summary>
    public static Vector3d operator *(Vector3d a, double s) => new(a.X * s, a.Y * s, a.Z * s);

    /// <summary>The same in double precision.</summary>
    public static implicit operator Vector3d(Vector3 v) => new(v.X, v.Y, v.Z);

    /// <summary>Inner product.</summary>
    public static double Dot(Vector3d a, Vector3d b) => (a.X * b.X) + (a.Y * b.Y) + (a.Z * b.Z);

    /// <summary>Cross product, right-handed.</summary>
    public static Vector3d Cross(Vector3d a, Vector3d b) =>
        new((a.Y * b.Z) - (a.Z * b.Y), (a.Z * b.X) - (a.X * b.Z), (a.X * b.Y) - (a.Y * b.X));

    /// <summary>Euclidean length.</summary>
    public double Length => Math.Sqrt(Dot(this, this));

    /// <summary>The same direction with length 1; not a number for a vector of length 0.</summary>
    public Vector3d Normalised() => this * (1 / Length);

    /// <summary>The same in single precision.</summary>
    public Vector3 ToSingle() => new((float)X, (float)Y, (float)Z);
}
