using System.Numerics;

namespace Eidolon.Core.Skeletons;

/// <summary>Analytic two-bone inverse kinematics: where the middle joint goes.</summary>
public static class TwoBoneIk
{
    /// <summary>
    /// Middle joint of a chain from <paramref name="root"/> to <paramref name="target"/>, bent towards <paramref name="pole"/>. All metres,
    /// world.
    /// </summary>
    /// <param name="reached">The end: the target, or the nearest place within reach.</param>
    public static Vector3 Middle(Vector3 root, Vector3 target, Vector3 pole, float first, float second, out Vector3 reached)
    {
        var line = target - root;
        var distance = line.Length();
        var u = distance > 1e-6f ? line / distance : -Vector3.UnitY;
        var d = Math.Clamp(distance, MathF.Abs(first - second) + 1e-5f, first + second - 1e-5f);
        reached = root + (u * d);
        if (MathF.Abs(d - distance) < 1e-7f)
        {
            reached = target;
        }

        var along = ((first * first) - (second * second) + (d * d)) / (2 * d);
        var out2 = (first * first) - (along * along);
        var side = pole - (u * Vector3.Dot(pole, u));
        if (side.LengthSquared() < 1e-10f)
        {
            side = Vector3.Cross(u, MathF.Abs(u.X) < 0.9f ? Vector3.UnitX : Vector3.UnitZ);
        }

        return root + (u * along) + (Vector3.Normalize(side) * MathF.Sqrt(MathF.Max(0, out2)));
    }
}
