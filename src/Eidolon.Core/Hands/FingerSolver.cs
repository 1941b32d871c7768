using System.Numerics;

namespace Eidolon.Core.Hands;

/// <summary>Finds how a finger is held from what was seen of it: four turns by damped least squares within their limits.</summary>
/// <remarks>
/// Gauss-Newton with projection onto the limits; freedoms at a limit that pull outwards are left out of the step (Bertsekas 1982). One place a
/// finger does not tell four turns: the last joint follows the middle one by two thirds (Rijpkema and Girard, "Computer Animation of
/// Knowledge-Based Human Grasping", 1991), spread is small, and the finger is near where it was.
/// </remarks>
public static class FingerSolver
{
    private const int Freedoms = 4;

    private const float Degree = MathF.PI / 180;

    /// <summary>A place that was measured is off by so much when nothing else is said, metres.</summary>
    private const float Measured = 0.0015f;

    /// <summary>Spreads of what is expected, radians.</summary>
    private const float Sideways = 14 * Degree,
        Coupled = 9 * Degree,
        Before = 25 * Degree;

    /// <summary>The pose that fits best, and how far what was seen is from it, RMS, metres.</summary>
    /// <param name="start">The pose of the frame before; a hint, not a constraint.</param>
    /// <param name="spread">How far off a sight usually is, metres.</param>
    public static (FingerPose Pose, float Residual) Solve(
        FingerChain chain,
        ReadOnlySpan<FingerSight> sights,
        FingerPose start,
        float spread = Measured
    )
    {
        var limits = FingerLimits.Of(chain.IsThumb);
        var best = Descend(chain, limits, sights, start, start, spread);
        if (sights.Length > 0 && best.Residual > spread)
        {
            // From the other end of the range: a finger that straightened between two frames.
            var other = start.Curl > 0.5f ? new FingerPose(0, 0.1f, 0.1f, 0.07f) : limits.Clamp(new FingerPose(0, 1.2f, 1.5f, 1));
            var again = Descend(chain, limits, sights, other, other, spread);
            best = again.Residual < best.Residual * 0.8f ? again : best;
        }

        return best;
    }

    private static (FingerPose Pose, float Residual) Descend(
        FingerChain chain,
        FingerLimits limits,
        ReadOnlySpan<FingerSight> sights,
        FingerPose start,
        FingerPose before,
        float spread
    )
    {
        Span<float> q = [start.Spread, start.First, start.Second, start.Third];
        Span<float> hint = [before.Spread, before.First, before.Second, before.Third];
        Span<float> h = stackalloc float[Freedoms * Freedoms];
        Span<float> g = stackalloc float[Freedoms];
        Span<float> next = stackalloc float[Freedoms];
        var cost = Cost(chain, sights, spread, q, hint, h, g);
        var damping = 1e-3f;
        for (var step = 0; step < 12; step++)
        {
            if (!Step(limits, q, h, g, damping, next))
            {
                break;
            }

            var tried = Cost(chain, sights, spread, next, hint, default, default);
            if (tried < cost)
            {
                var gain = cost - tried;
                next.CopyTo(q);
                cost = Cost(chain, sights, spread, q, hint, h, g);
                damping = MathF.Max(1e-6f, damping * 0.2f);
                if (gain < cost * 1e-4f)
                {
                    break;
                }
            }
            else if ((damping *= 8) > 1e4f)
            {
                break;
            }
        }

        var pose = new FingerPose(q[0], q[1], q[2], q[3]);
        return (pose, Residual(chain, sights, pose));
    }

    /// <summary>One damped step within the limits; false when nothing can move.</summary>
    private static bool Step(FingerLimits limits, Span<float> q, Span<float> h, Span<float> g, float damping, Span<float> next)
    {
        Span<float> a = stackalloc float[Freedoms * Freedoms];
        Span<float> b = stackalloc float[Freedoms];
        var free = 0;
        for (var i = 0; i < Freedoms; i++)
        {
            var (low, high) = limits.Range(i);
            var held = (q[i] <= low && g[i] > 0) || (q[i] >= high && g[i] < 0);
            free += held ? 0 : 1;
            for (var k = 0; k < Freedoms; k++)
            {
                a[(i * Freedoms) + k] = held ? (i == k ? 1 : 0) : h[(i * Freedoms) + k];
            }

            a[(i * Freedoms) + i] *= held ? 1 : 1 + damping;
            b[i] = held ? 0 : -g[i];
        }

        if (free == 0 || !Solve(a, b))
        {
            return false;
        }

        var moved = 0f;
        for (var i = 0; i < Freedoms; i++)
        {
            var (low, high) = limits.Range(i);
            next[i] = Math.Clamp(q[i] + b[i], low, high);
            moved = MathF.Max(moved, MathF.Abs(next[i] - q[i]));
        }

        return moved > 1e-5f;
    }

    /// <summary>Elimination with pivots on four by four; the answer takes the place of the right side.</summary>
    private static bool Solve(Span<float> a, Span<float> b)
    {
        for (var i = 0; i < Freedoms; i++)
        {
            var p = i;
            for (var r = i + 1; r < Freedoms; r++)
            {
                p = MathF.Abs(a[(r * Freedoms) + i]) > MathF.Abs(a[(p * Freedoms) + i]) ? r : p;
            }

            if (MathF.Abs(a[(p * Freedoms) + i]) < 1e-12f)
            {
                return false;
            }

            for (var k = 0; p != i && k < Freedoms; k++)
            {
                (a[(i * Freedoms) + k], a[(p * Freedoms) + k]) = (a[(p * Freedoms) + k], a[(i * Freedoms) + k]);
            }

            (b[i], b[p]) = (b[p], b[i]);
            for (var r = i + 1; r < Freedoms; r++)
            {
                var m = a[(r * Freedoms) + i] / a[(i * Freedoms) + i];
                for (var k = i; k < Freedoms; k++)
                {
                    a[(r * Freedoms) + k] -= m * a[(i * Freedoms) + k];
                }

                b[r] -= m * b[i];
            }
        }

        for (var i = Freedoms - 1; i >= 0; i--)
        {
            for (var k = i + 1; k < Freedoms; k++)
            {
                b[i] -= a[(i * Freedoms) + k] * b[k];
            }

            b[i] /= a[(i * Freedoms) + i];
        }

        return true;
    }

    /// <summary>Half the sum of squares; with its normal equations when they are asked for.</summary>
    private static float Cost(
        FingerChain chain,
        ReadOnlySpan<FingerSight> sights,
        float spread,
        ReadOnlySpan<float> q,
        ReadOnlySpan<float> before,
        Span<float> h,
        Span<float> g
    )
    {
        var slopes = !h.IsEmpty;
        if (slopes)
        {
            h.Clear();
            g.Clear();
        }

        var pose = new FingerPose(q[0], q[1], q[2], q[3]);
        var (a, b, c) = chain.Turns(pose);
        Span<Quaternion> world = [a, a * b, a * b * c];
        Span<Vector3> joints = stackalloc Vector3[4];
        chain.Places(pose, joints);
        // Each freedom turns everything beyond its joint about an axis that goes through it.
        Span<Vector3> axes =
        [
            chain.Spreads,
            Vector3.Transform(chain.Bends, Quaternion.CreateFromAxisAngle(chain.Spreads, q[0])),
            default,
            default,
        ];
        axes[2] = axes[3] = axes[1];
        Span<Vector3> slope = stackalloc Vector3[Freedoms];
        var cost = 0f;
        foreach (var s in sights)
        {
            var at = joints[s.Bone] + Vector3.Transform(s.Offset, world[s.Bone]);
            var e = Across(at - s.Target, s.Ray) / spread;
            cost += e.LengthSquared();
            if (!slopes)
            {
                continue;
            }

            for (var i = 0; i < Freedoms; i++)
            {
                var joint = Math.Max(0, i - 1);
                slope[i] = joint > s.Bone ? default : Across(Vector3.Cross(axes[i], at - joints[joint]), s.Ray) / spread;
                g[i] += Vector3.Dot(slope[i], e);
                for (var k = 0; k <= i; k++)
                {
                    h[(i * Freedoms) + k] += Vector3.Dot(slope[i], slope[k]);
                }
            }
        }

        void Add(float error, int i, float di, int k, float dk, Span<float> h, Span<float> g)
        {
            cost += error * error;
            if (h.IsEmpty)
            {
                return;
            }

            g[i] += error * di;
            h[(i * Freedoms) + i] += di * di;
            if (k >= 0)
            {
                g[k] += error * dk;
                h[(k * Freedoms) + k] += dk * dk;
                h[(Math.Max(i, k) * Freedoms) + Math.Min(i, k)] += di * dk;
            }
        }

        var follows = chain.IsThumb ? 0.9f : 0.667f;
        Add(q[0] / Sideways, 0, 1 / Sideways, -1, 0, h, g);
        Add((q[3] - (follows * q[2])) / Coupled, 3, 1 / Coupled, 2, -follows / Coupled, h, g);
        for (var i = 0; i < Freedoms; i++)
        {
            Add((q[i] - before[i]) / Before, i, 1 / Before, -1, 0, h, g);
        }

        for (var i = 0; slopes && i < Freedoms; i++)
        {
            for (var k = i + 1; k < Freedoms; k++)
            {
                h[(i * Freedoms) + k] = h[(k * Freedoms) + i];
            }
        }

        return cost / 2;
    }

    private static float Residual(FingerChain chain, ReadOnlySpan<FingerSight> sights, FingerPose pose)
    {
        var (a, b, c) = chain.Turns(pose);
        Span<Quaternion> world = [a, a * b, a * b * c];
        Span<Vector3> joints = stackalloc Vector3[4];
        chain.Places(pose, joints);
        var sum = 0f;
        foreach (var s in sights)
        {
            sum += Across(joints[s.Bone] + Vector3.Transform(s.Offset, world[s.Bone]) - s.Target, s.Ray).LengthSquared();
        }

        return sights.Length == 0 ? float.NaN : MathF.Sqrt(sum / sights.Length);
    }

    private static Vector3 Across(Vector3 v, Vector3 ray) => ray == default ? v : v - (ray * Vector3.Dot(v, ray));
}
