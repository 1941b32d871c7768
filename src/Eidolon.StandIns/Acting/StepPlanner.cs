using System.Numerics;

namespace Eidolon.StandIns.Acting;

/// <summary>Plans footfalls along a floor path: a first half step, even steps, feet together at the end.</summary>
internal static class StepPlanner
{
    /// <param name="path">Floor points, walked in order, corners rounded by the step itself.</param>
    /// <param name="step">Length of a step, metres.</param>
    /// <param name="pace">Seconds a step.</param>
    /// <param name="width">Half the distance between the feet, metres.</param>
    /// <param name="stance">Share of a stride that a foot stands; below a half it is a run, with flights.</param>
    /// <param name="height">Floor height at a place.</param>
    /// <returns>The time at which the last foot stands.</returns>
    public static float Walk(
        Choreography c,
        float start,
        IReadOnlyList<Vector3> path,
        float step,
        float pace,
        float width,
        float stance = 0.62f,
        Func<Vector3, float>? height = null
    )
    {
        var length = Length(path);
        var steps = Math.Max(2, (int)MathF.Round(length / step));
        var even = length / steps;
        var t = start;
        var side = 1;
        for (var i = 1; i <= steps + 1; i++, side = 1 - side)
        {
            var s = MathF.Min(length, (i - 0.5f) * even);
            var last = i >= steps;
            s = last ? length : s;
            var (at, yaw) = Along(path, s, even);
            var left = new Vector3(MathF.Cos(yaw), 0, -MathF.Sin(yaw));
            var place = at + (left * (side == 0 ? width : -width));
            place.Y = height?.Invoke(place) ?? 0;
            var feet = c.Feet[side];
            // A foot swings for the part of the stride it does not stand.
            var swing = 2 * pace * (1 - stance);
            var down = t + swing;
            if (feet.Count > 0)
            {
                feet[^1] = feet[^1] with { Up = t, ToeLast = true };
            }

            feet.Add(new Footfall(down, float.PositiveInfinity, place, yaw, HeelFirst: !last || i == steps));
            if (swing > pace && i <= steps)
            {
                // Running: the other foot leaves before this one lands.
                c.Flights.Add((t + pace, down));
            }

            t += pace;
        }

        return t + (pace * 0.5f);
    }

    /// <summary>Both feet side by side at a place, from the beginning.</summary>
    public static void Stand(Choreography c, Vector3 at, float yaw, float width)
    {
        var left = new Vector3(MathF.Cos(yaw), 0, -MathF.Sin(yaw));
        c.Feet[0].Add(new Footfall(-1, float.PositiveInfinity, at + (left * width), yaw + 0.1f));
        c.Feet[1].Add(new Footfall(-1, float.PositiveInfinity, at - (left * width), yaw - 0.1f));
    }

    /// <summary>One step of one foot to a place.</summary>
    public static void Step(
        Choreography c,
        int side,
        float up,
        float down,
        Vector3 to,
        float yaw,
        bool heelFirst = false,
        bool toeLast = false
    )
    {
        var feet = c.Feet[side];
        feet[^1] = feet[^1] with { Up = up, ToeLast = toeLast };
        feet.Add(new Footfall(down, float.PositiveInfinity, to, yaw, heelFirst));
    }

    public static float Length(IReadOnlyList<Vector3> path)
    {
        float length = 0;
        for (var i = 1; i < path.Count; i++)
        {
            length += (path[i] - path[i - 1]).Length();
        }

        return length;
    }

    private static (Vector3 At, float Yaw) Along(IReadOnlyList<Vector3> path, float s, float look)
    {
        var a = Point(path, s - (look * 0.6f));
        var b = Point(path, s + (look * 0.6f));
        var d = b - a;
        return (Point(path, s), MathF.Atan2(d.X, d.Z));
    }

    private static Vector3 Point(IReadOnlyList<Vector3> path, float s)
    {
        s = MathF.Max(0, s);
        for (var i = 1; i < path.Count; i++)
        {
            var d = (path[i] - path[i - 1]).Length();
            if (s <= d || i == path.Count - 1)
            {
                return path[i - 1] + ((path[i] - path[i - 1]) * MathF.Min(1, s / d));
            }

            s -= d;
        }

        return path[^1];
    }
}
