using System.Numerics;

namespace Eidolon.Core.Geometry;

/// <summary>Line segments in space.</summary>
public static class Segments
{
    /// <summary>Shortest distance of two segments, metres.</summary>
    public static float Distance(Vector3 p1, Vector3 q1, Vector3 p2, Vector3 q2)
    {
        var (s, t) = Nearest(p1, q1, p2, q2);
        return Vector3.Distance(Vector3.Lerp(p1, q1, s), Vector3.Lerp(p2, q2, t));
    }

    /// <summary>Where two segments are nearest, as shares of each from its first end (Ericson, "Real-Time Collision Detection", 5.1.9).</summary>
    public static (float First, float Second) Nearest(Vector3 p1, Vector3 q1, Vector3 p2, Vector3 q2)
    {
        Vector3 d1 = q1 - p1,
            d2 = q2 - p2,
            r = p1 - p2;
        float a = Vector3.Dot(d1, d1),
            e = Vector3.Dot(d2, d2),
            f = Vector3.Dot(d2, r),
            c = Vector3.Dot(d1, r),
            b = Vector3.Dot(d1, d2);
        float s = 0,
            t;
        if (a < 1e-9f)
        {
            t = e < 1e-9f ? 0 : Math.Clamp(f / e, 0, 1);
        }
        else
        {
            var denominator = (a * e) - (b * b);
            s = denominator > 1e-9f ? Math.Clamp(((b * f) - (c * e)) / denominator, 0, 1) : 0;
            t = e < 1e-9f ? 0 : ((b * s) + f) / e;
            if (t is < 0 or > 1 || e < 1e-9f)
            {
                t = Math.Clamp(t, 0, 1);
                s = Math.Clamp(((b * t) - c) / a, 0, 1);
            }
        }

        return (s, t);
    }
}
