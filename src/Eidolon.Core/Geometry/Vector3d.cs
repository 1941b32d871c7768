using System.Numerics;

namespace Eidolon.Core.Geometry;

/// <summary>Three doubles, for work inside least squares.</summary>
public readonly record struct Vector3d(double X, double Y, double Z)
{
    public static Vector3d operator +(Vector3d a, Vector3d b) => new(a.X + b.X, a.Y + b.Y, a.Z + b.Z);

    public static Vector3d operator -(Vector3d a, Vector3d b) => new(a.X - b.X, a.Y - b.Y, a.Z - b.Z);

    public static Vector3d operator *(Vector3d a, double s) => new(a.X * s, a.Y * s, a.Z * s);

    public static implicit operator Vector3d(Vector3 v) => new(v.X, v.Y, v.Z);

    public static double Dot(Vector3d a, Vector3d b) => (a.X * b.X) + (a.Y * b.Y) + (a.Z * b.Z);

    public static Vector3d Cross(Vector3d a, Vector3d b) =>
        new((a.Y * b.Z) - (a.Z * b.Y), (a.Z * b.X) - (a.X * b.Z), (a.X * b.Y) - (a.Y * b.X));

    public double Length => Math.Sqrt(Dot(this, this));

    public Vector3d Normalised() => this * (1 / Length);

    public Vector3 ToSingle() => new((float)X, (float)Y, (float)Z);
}
