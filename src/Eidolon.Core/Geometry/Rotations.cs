using System.Numerics;

namespace Eidolon.Core.Geometry;

/// <summary>Quaternion helpers: Euler angles, exponential map, shortest arcs. Angles are radians, quaternions x y z w.</summary>
/// <remarks>Diebel, "Representing Attitude: Euler Angles, Unit Quaternions, and Rotation Vectors", 2006.</remarks>
public static class Rotations
{
    private static readonly Vector3[] Axes = [Vector3.UnitX, Vector3.UnitY, Vector3.UnitZ];

    /// <summary>Rotation about one coordinate axis (0 = X, 1 = Y, 2 = Z).</summary>
    public static Quaternion AboutAxis(int axis, double radians)
    {
        var (s, c) = Math.SinCos(radians * 0.5);
        return axis switch
        {
            0 => new Quaternion((float)s, 0, 0, (float)c),
            1 => new Quaternion(0, (float)s, 0, (float)c),
            _ => new Quaternion(0, 0, (float)s, (float)c),
        };
    }

    /// <summary>The product of three axis rotations in the listed order.</summary>
    public static Quaternion FromEuler(RotationOrder order, double first, double second, double third) =>
        Quaternion.Normalize(AboutAxis(order.First, first) * AboutAxis(order.Second, second) * AboutAxis(order.Third, third));

    /// <summary>Angles (first, second, third) of <paramref name="q"/> for the listed order; the middle angle lies in ±90°.</summary>
    public static (double First, double Second, double Third) ToEuler(RotationOrder order, Quaternion q)
    {
        int i = order.First,
            j = order.Second,
            k = order.Third;
        var even = (j - i + 3) % 3 == 1 ? 1.0 : -1.0;
        var m = Matrix(q);
        var cosine = Math.Sqrt((m[(i * 3) + i] * m[(i * 3) + i]) + (m[(i * 3) + j] * m[(i * 3) + j]));
        // Atan2 against the cosine keeps full precision near the pole, where an arcsine would lose half its digits.
        var second = Math.Atan2(even * m[(i * 3) + k], cosine);
        double first,
            third;
        if (cosine > 1e-6)
        {
            first = Math.Atan2(-even * m[(j * 3) + k], m[(k * 3) + k]);
            third = Math.Atan2(-even * m[(i * 3) + j], m[(i * 3) + i]);
        }
        else
        {
            // At the pole only the sum of the outer angles counts: all of it goes to the first.
            first = Math.Atan2(even * m[(k * 3) + j], m[(j * 3) + j]);
            third = 0;
        }

        return (first, second, third);
    }

    /// <summary>Row-major 3×3 matrix for column vectors, in double precision.</summary>
    public static double[] Matrix(Quaternion q)
    {
        double x = q.X,
            y = q.Y,
            z = q.Z,
            w = q.W;
        var n = 2.0 / ((x * x) + (y * y) + (z * z) + (w * w));
        return
        [
            1 - (n * ((y * y) + (z * z))),
            n * ((x * y) - (w * z)),
            n * ((x * z) + (w * y)),
            n * ((x * y) + (w * z)),
            1 - (n * ((x * x) + (z * z))),
            n * ((y * z) - (w * x)),
            n * ((x * z) - (w * y)),
            n * ((y * z) + (w * x)),
            1 - (n * ((x * x) + (y * y))),
        ];
    }

    /// <summary>Exponential map: a rotation vector (axis × angle) to a quaternion.</summary>
    public static Quaternion Exp(Vector3 rotationVector)
    {
        var angle = rotationVector.Length();
        if (angle < 1e-8f)
        {
            return Quaternion.Normalize(new Quaternion(rotationVector * 0.5f, 1));
        }

        var (s, c) = MathF.SinCos(angle * 0.5f);
        return new Quaternion(rotationVector * (s / angle), c);
    }

    /// <summary>Logarithm: the rotation vector of <paramref name="q"/>, angle at most π.</summary>
    public static Vector3 Log(Quaternion q)
    {
        if (q.W < 0)
        {
            q = -q;
        }

        var v = new Vector3(q.X, q.Y, q.Z);
        var s = v.Length();
        return s < 1e-8f ? v * 2 : v * (2 * MathF.Atan2(s, q.W) / s);
    }

    /// <summary>The shortest rotation that turns direction <paramref name="from"/> onto <paramref name="to"/>.</summary>
    public static Quaternion Between(Vector3 from, Vector3 to)
    {
        // In doubles, from the half-way vector: near the opposite direction its length is all that tells the axis.
        Vector3d f = ((Vector3d)from).Normalised(),
            t = ((Vector3d)to).Normalised();
        var half = (f + t).Length;
        if (half < 1e-9)
        {
            var axis = Vector3.Cross(MathF.Abs(from.X) < 0.8f * from.Length() ? Vector3.UnitX : Vector3.UnitY, from);
            return Quaternion.CreateFromAxisAngle(Vector3.Normalize(axis), MathF.PI);
        }

        var v = Vector3d.Cross(f, t) * (1 / half);
        return Quaternion.Normalize(new Quaternion((float)v.X, (float)v.Y, (float)v.Z, (float)(half / 2)));
    }

    /// <summary>The part of <paramref name="q"/> that turns about <paramref name="axis"/> (unit).</summary>
    public static Quaternion Twist(Quaternion q, Vector3 axis)
    {
        var p = Vector3.Dot(new Vector3(q.X, q.Y, q.Z), axis);
        var t = new Quaternion(axis * p, q.W);
        var n = t.Length();
        return n < 1e-6f ? Quaternion.Identity : Quaternion.Multiply(t, 1 / n);
    }

    /// <summary>Slerp along the shorter way.</summary>
    public static Quaternion Slerp(Quaternion a, Quaternion b, float t) => Quaternion.Slerp(a, Quaternion.Dot(a, b) < 0 ? -b : b, t);

    /// <summary>Slerp from one to the other as their signs have it, also the longer way round.</summary>
    public static Quaternion SlerpAlong(Quaternion a, Quaternion b, float t)
    {
        var cosine = Math.Clamp(Quaternion.Dot(a, b), -1, 1);
        var angle = MathF.Acos(cosine);
        var sine = MathF.Sin(angle);
        return Quaternion.Normalize(
            sine >= 1e-3f ? (a * (MathF.Sin((1 - t) * angle) / sine)) + (b * (MathF.Sin(t * angle) / sine))
            : cosine > 0 ? Quaternion.Lerp(a, b, t)
            : Slerp(a, b, t)
        );
    }

    /// <summary>Angle in radians between two rotations.</summary>
    public static float Angle(Quaternion a, Quaternion b) => Log(Quaternion.Conjugate(a) * b).Length();

    /// <summary>The rotation whose columns are the given right-handed, orthonormal axes.</summary>
    public static Quaternion FromAxes(Vector3 x, Vector3 y, Vector3 z) =>
        Quaternion.Normalize(
            Quaternion.CreateFromRotationMatrix(new Matrix4x4(x.X, x.Y, x.Z, 0, y.X, y.Y, y.Z, 0, z.X, z.Y, z.Z, 0, 0, 0, 0, 1))
        );

    /// <summary>The yaw (about +Y) of a facing direction: 0 looks along +Z.</summary>
    public static Quaternion Heading(Vector3 forward) =>
        (forward.X * forward.X) + (forward.Z * forward.Z) < 1e-12f ? Quaternion.Identity : AboutAxis(1, Math.Atan2(forward.X, forward.Z));

    /// <summary>Unit vector of a coordinate axis.</summary>
    public static Vector3 Axis(int index) => Axes[index];
}
