using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.Acting;

/// <summary>Where the hips go: over the feet that stand, swaying towards the standing side, falling freely in flight.</summary>
internal sealed class HipPath
{
    private const float Gravity = 9.81f;

    public HipPath(Choreography c, FootMotion[] feet, Skeleton body, float rate)
    {
        var n = (int)MathF.Round(c.Duration * rate) + 1;
        var hip = body[body.IndexOf(BodyRole.ThighL)].Offset;
        var leg = body[body.IndexOf(BodyRole.ShinL)].Offset.Length() + body[body.IndexOf(BodyRole.FootL)].Offset.Length();
        Position = new Vector3[n];
        Yaw = new float[n];
        var flat = new Vector3[n];
        var heading = new Vector3[n];
        for (var i = 0; i < n; i++)
        {
            var t = i / rate;
            flat[i] = Support(feet, t);
            Vector3 forward = default;
            foreach (var f in feet)
            {
                var q = f.At(t).Turn;
                var z = Vector3.Transform(Vector3.UnitZ, q);
                var x = Vector3.Transform(Vector3.UnitX, q);
                forward += z.Y is > -0.95f and < 0.95f ? new Vector3(z.X, 0, z.Z) : Vector3.Cross(x, Vector3.UnitY);
            }

            heading[i] = forward;
        }

        flat = Smooth(flat, rate * 0.16f);
        heading = Smooth(heading, rate * 0.20f);
        var height = new Vector3[n];
        for (var i = 0; i < n; i++)
        {
            var h = heading[i];
            Yaw[i] = MathF.Atan2(h.X, h.Z);
            height[i] = new Vector3(0, Height(feet, flat[i], i / rate, hip, leg), 0);
        }

        height = Smooth(Lowest(height, (int)(rate * 0.05f)), rate * 0.05f);
        foreach (var flight in c.Flights)
        {
            Fall(height, flight, rate);
        }

        for (var i = 0; i < n; i++)
        {
            Position[i] = new Vector3(flat[i].X, height[i].Y, flat[i].Z);
        }
    }

    public Vector3[] Position { get; }

    public float[] Yaw { get; }

    /// <summary>The centre of support: between the feet, passing over each standing foot at the middle of its stance.</summary>
    private static Vector3 Support(FootMotion[] feet, float t)
    {
        Vector3 sum = default;
        float weight = 0;
        foreach (var f in feet)
        {
            var s = f.At(t);
            var fall = f.Current(t);
            var w = 0.35f;
            if (s.Planted)
            {
                var edge = MathF.Min(t - fall.Down, fall.Up - t);
                w = 0.35f + Math.Clamp(edge / 0.25f, 0, 1);
            }

            // Sideways the hips move a third of the way to the standing foot; that falls out of the smoothing.
            sum += new Vector3(s.Ankle.X, 0, s.Ankle.Z) * w;
            weight += w;
        }

        return sum / weight;
    }

    /// <summary>As high as the standing legs let it, knees never quite straight.</summary>
    private static float Height(FootMotion[] feet, Vector3 flat, float t, Vector3 hip, float leg)
    {
        var best = float.PositiveInfinity;
        var loose = float.PositiveInfinity;
        foreach (var f in feet)
        {
            var s = f.At(t);
            var fall = f.Current(t);
            var d = new Vector3(s.Ankle.X - flat.X, 0, s.Ankle.Z - flat.Z).Length();
            d = MathF.Max(0, d - (MathF.Abs(hip.X) * 0.8f));
            var reach = leg * 0.9955f;
            var h = s.Ankle.Y + MathF.Sqrt(MathF.Max(0.04f, (reach * reach) - (d * d)));
            if (s.Planted && fall.Up - t > 0.16f)
            {
                best = MathF.Min(best, h);
            }

            loose = MathF.Min(loose, h);
        }

        return (float.IsInfinity(best) ? loose : best) - hip.Y;
    }

    private static void Fall(Vector3[] height, (float TakeOff, float Landing) flight, float rate)
    {
        int a = (int)(flight.TakeOff * rate),
            b = Math.Min(height.Length - 1, (int)(flight.Landing * rate));
        var length = (b - a) / rate;
        for (var i = a; i <= b; i++)
        {
            var t = (i - a) / rate;
            var line = float.Lerp(height[a].Y, height[b].Y, t / length);
            height[i].Y = line + (0.5f * Gravity * t * (length - t));
        }

        Absorb(height, a, -1, rate);
        Absorb(height, b, 1, rate);
    }

    /// <summary>Legs push off and absorb: the speed of flight fades over the frames next to it.</summary>
    private static void Absorb(Vector3[] height, int edge, int direction, float rate)
    {
        var span = (int)(0.22f * rate);
        if (edge - span < 2 || edge + span > height.Length - 3)
        {
            return;
        }

        var inside = (height[edge].Y - height[edge - direction].Y) * rate;
        var outside = (height[edge + direction].Y - height[edge].Y) * rate;
        var change = inside - outside;
        for (var k = 1; k < span; k++)
        {
            var t = k / (float)span;
            height[edge + (k * direction)].Y += change * (k / rate) * (1 - t) * (1 - t);
        }
    }

    /// <summary>Running minimum of the heights, so that smoothing does not lift the hips above what the legs reach.</summary>
    private static Vector3[] Lowest(Vector3[] values, int radius)
    {
        var result = new Vector3[values.Length];
        for (var i = 0; i < values.Length; i++)
        {
            var low = float.MaxValue;
            for (var k = Math.Max(0, i - radius); k <= Math.Min(values.Length - 1, i + radius); k++)
            {
                low = MathF.Min(low, values[k].Y);
            }

            result[i] = new Vector3(0, low, 0);
        }

        return result;
    }

    internal static Vector3[] Smooth(Vector3[] values, float sigma)
    {
        var r = (int)(sigma * 3);
        var kernel = new float[(2 * r) + 1];
        for (var k = -r; k <= r; k++)
        {
            kernel[k + r] = MathF.Exp(-k * k / (2 * sigma * sigma));
        }

        var total = kernel.Sum();
        var result = new Vector3[values.Length];
        for (var i = 0; i < values.Length; i++)
        {
            Vector3 s = default;
            for (var k = -r; k <= r; k++)
            {
                s += values[Math.Clamp(i + k, 0, values.Length - 1)] * kernel[k + r];
            }

            result[i] = s / total;
        }

        return result;
    }
}
