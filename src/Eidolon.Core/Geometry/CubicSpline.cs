using System.Numerics;

namespace Eidolon.Core.Geometry;

/// <summary>Piecewise cubic Hermite curves through samples.</summary>
public static class CubicSpline
{
    /// <summary>Value at <paramref name="t"/> in 0..1 between p0 and p1 with end slopes m0, m1 per unit of t.</summary>
    public static float Hermite(float p0, float m0, float p1, float m1, float t)
    {
        float t2 = t * t,
            t3 = t2 * t;
        return (((2 * t3) - (3 * t2) + 1) * p0) + ((t3 - (2 * t2) + t) * m0) + (((-2 * t3) + (3 * t2)) * p1) + ((t3 - t2) * m1);
    }

    /// <summary>Minimum-jerk ease from 0 to 1 (Flash &amp; Hogan 1985).</summary>
    public static float MinimumJerk(float t)
    {
        t = Math.Clamp(t, 0, 1);
        return t * t * t * (10 + (t * ((6 * t) - 15)));
    }

    /// <summary>Between the second and the third of four evenly spaced places (Catmull &amp; Rom 1974); t from 0 to 1.</summary>
    public static Vector3 CatmullRom(Vector3 a, Vector3 b, Vector3 c, Vector3 d, float t)
    {
        float t2 = t * t,
            t3 = t2 * t;
        return 0.5f * ((2 * b) + ((c - a) * t) + (((2 * a) - (5 * b) + (4 * c) - d) * t2) + (((3 * b) - a - (3 * c) + d) * t3));
    }
}
