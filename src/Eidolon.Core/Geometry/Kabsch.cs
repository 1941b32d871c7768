using System.Numerics;

namespace Eidolon.Core.Geometry;

/// <summary>Best rigid fit of one point set onto another (least squares).</summary>
/// <remarks>Horn, "Closed-form solution of absolute orientation using unit quaternions", JOSA A 4, 1987.</remarks>
public static class Kabsch
{
    /// <summary>Finds q, t that minimise Σ w |q·from + t − to|². Needs three points that are not on one line for a unique turn.</summary>
    public static (Quaternion Rotation, Vector3 Translation, float Rms) Fit(ReadOnlySpan<Vector3> from, ReadOnlySpan<Vector3> to)
    {
        if (from.Length != to.Length || from.Length == 0)
        {
            throw new ArgumentException("Kabsch needs two sets of the same, non-zero size.", nameof(from));
        }

        Vector3 ca = default,
            cb = default;
        for (var i = 0; i < from.Length; i++)
        {
            ca += from[i];
            cb += to[i];
        }

        ca /= from.Length;
        cb /= from.Length;
        Span<double> s = stackalloc double[9];
        s.Clear();
        for (var i = 0; i < from.Length; i++)
        {
            var a = from[i] - ca;
            var b = to[i] - cb;
            s[0] += a.X * b.X;
            s[1] += a.X * b.Y;
            s[2] += a.X * b.Z;
            s[3] += a.Y * b.X;
            s[4] += a.Y * b.Y;
            s[5] += a.Y * b.Z;
            s[6] += a.Z * b.X;
            s[7] += a.Z * b.Y;
            s[8] += a.Z * b.Z;
        }

        var q = LargestEigenvector(s);
        var t = cb - Vector3.Transform(ca, q);
        double sum = 0;
        for (var i = 0; i < from.Length; i++)
        {
            sum += (Vector3.Transform(from[i], q) + t - to[i]).LengthSquared();
        }

        return (q, t, (float)Math.Sqrt(sum / from.Length));
    }

    /// <summary>Horn's symmetric 4×4 matrix, its largest eigenvector by Jacobi sweeps.</summary>
    private static Quaternion LargestEigenvector(ReadOnlySpan<double> s)
    {
        Span<double> n =
        [
            s[0] + s[4] + s[8],
            s[5] - s[7],
            s[6] - s[2],
            s[1] - s[3],
            s[5] - s[7],
            s[0] - s[4] - s[8],
            s[1] + s[3],
            s[6] + s[2],
            s[6] - s[2],
            s[1] + s[3],
            s[4] - s[0] - s[8],
            s[5] + s[7],
            s[1] - s[3],
            s[6] + s[2],
            s[5] + s[7],
            s[8] - s[0] - s[4],
        ];
        Span<double> v = stackalloc double[16];
        v.Clear();
        v[0] = v[5] = v[10] = v[15] = 1;
        for (var sweep = 0; sweep < 24; sweep++)
        {
            double off = 0;
            for (var p = 0; p < 3; p++)
            {
                for (var r = p + 1; r < 4; r++)
                {
                    off += Math.Abs(n[(p * 4) + r]);
                    JacobiRotate(n, v, p, r);
                }
            }

            if (off < 1e-15)
            {
                break;
            }
        }

        var best = 0;
        for (var i = 1; i < 4; i++)
        {
            if (n[(i * 4) + i] > n[(best * 4) + best])
            {
                best = i;
            }
        }

        return Quaternion.Normalize(new Quaternion((float)v[4 + best], (float)v[8 + best], (float)v[12 + best], (float)v[best]));
    }

    private static void JacobiRotate(Span<double> n, Span<double> v, int p, int r)
    {
        var apr = n[(p * 4) + r];
        if (Math.Abs(apr) < 1e-300)
        {
            return;
        }

        var theta = (n[(r * 4) + r] - n[(p * 4) + p]) / (2 * apr);
        var t = Math.Sign(theta) / (Math.Abs(theta) + Math.Sqrt((theta * theta) + 1));
        if (theta == 0)
        {
            t = 1;
        }

        var c = 1 / Math.Sqrt((t * t) + 1);
        var s = t * c;
        for (var k = 0; k < 4; k++)
        {
            double akp = n[(k * 4) + p],
                akr = n[(k * 4) + r];
            n[(k * 4) + p] = (c * akp) - (s * akr);
            n[(k * 4) + r] = (s * akp) + (c * akr);
        }

        for (var k = 0; k < 4; k++)
        {
            double apk = n[(p * 4) + k],
                ark = n[(r * 4) + k];
            n[(p * 4) + k] = (c * apk) - (s * ark);
            n[(r * 4) + k] = (s * apk) + (c * ark);
            double vkp = v[(k * 4) + p],
                vkr = v[(k * 4) + r];
            v[(k * 4) + p] = (c * vkp) - (s * vkr);
            v[(k * 4) + r] = (s * vkp) + (c * vkr);
        }
    }
}
