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
}
