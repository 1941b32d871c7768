using Eidolon.Core.Geometry;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Video;

/// <summary>Poses over time made smooth: each turn and place near what the frames say, with as little acceleration as bodies have.</summary>
/// <remarks>Whittaker 1923, with second differences; quaternions of neighbouring frames are near each other and are smoothed by their numbers.</remarks>
internal static class PosePath
{
    /// <summary>Accelerations of a body are about this: rad/s² and m/s².</summary>
    private const double Turning = 30,
        Moving = 5;

    /// <param name="spread">How far a frame's pose may be off: radians, and metres of the root.</param>
    public static ModelPose[] Smooth(ArticulatedModel model, IReadOnlyList<ModelPose> poses, double rate, double spread)
    {
        var n = poses.Count;
        var result = poses.Select(_ => new ModelPose(model)).ToArray();
        var still = rate * rate * spread;
        var (turns, moves) = (Factor(n, Squared(still / Turning)), Factor(n, Squared(still / Moving)));
        var line = new double[n];
        for (var d = 0; d < model.DofCount; d++)
        {
            for (var f = 0; f < n; f++)
            {
                line[f] = poses[f].Values[d];
            }

            BandCholesky.Solve(d < 3 ? moves : turns, n, 2, line);
            for (var f = 0; f < n; f++)
            {
                result[f].Values[d] = line[f];
            }
        }

        for (var j = 0; j < model.JointCount; j++)
        {
            if (model.Freedoms[j].Ball)
            {
                SmoothTurns(poses, result, j, turns);
            }
        }

        return result;
    }

    /// <summary>The pose between a frame and the next, by a cubic through the four around (Catmull &amp; Rom 1974).</summary>
    /// <param name="t">0 at the frame, 1 at the next.</param>
    public static void Between(ArticulatedModel model, IReadOnlyList<ModelPose> poses, int frame, double t, ModelPose result)
    {
        ModelPose At(int f) => poses[Math.Clamp(f, 0, poses.Count - 1)];
        var (a, b, c, d) = (At(frame - 1), At(frame), At(frame + 1), At(frame + 2));
        double[] w =
        [
            0.5 * t * ((t * (2 - t)) - 1),
            0.5 * ((t * t * ((3 * t) - 5)) + 2),
            0.5 * t * ((t * (4 - (3 * t))) + 1),
            0.5 * t * t * (t - 1),
        ];
        for (var k = 0; k < model.DofCount; k++)
        {
            result.Values[k] = (w[0] * a.Values[k]) + (w[1] * b.Values[k]) + (w[2] * c.Values[k]) + (w[3] * d.Values[k]);
        }

        for (var j = 0; j < model.JointCount; j++)
        {
            var (x, y, z, s) = (0.0, 0.0, 0.0, 0.0);
            foreach (var (pose, weight) in new[] { (a, w[0]), (b, w[1]), (c, w[2]), (d, w[3]) })
            {
                var (q, o) = (pose.Turns[j], b.Turns[j]);
                var own = (q.X * o.X) + (q.Y * o.Y) + (q.Z * o.Z) + (q.W * o.W) < 0 ? -weight : weight;
                (x, y, z, s) = (x + (own * q.X), y + (own * q.Y), z + (own * q.Z), s + (own * q.W));
            }

            result.Turns[j] = new Quaterniond(x, y, z, s).Normalized();
        }
    }

    private static void SmoothTurns(IReadOnlyList<ModelPose> poses, ModelPose[] result, int joint, double[] factor)
    {
        var n = poses.Count;
        var numbers = new double[4][];
        for (var k = 0; k < 4; k++)
        {
            numbers[k] = new double[n];
        }

        var last = Quaterniond.Identity;
        for (var f = 0; f < n; f++)
        {
            var q = poses[f].Turns[joint];
            var sign = (q.X * last.X) + (q.Y * last.Y) + (q.Z * last.Z) + (q.W * last.W) < 0 ? -1 : 1;
            last = new(q.X * sign, q.Y * sign, q.Z * sign, q.W * sign);
            (numbers[0][f], numbers[1][f], numbers[2][f], numbers[3][f]) = (last.X, last.Y, last.Z, last.W);
        }

        foreach (var line in numbers)
        {
            BandCholesky.Solve(factor, n, 2, line);
        }

        for (var f = 0; f < n; f++)
        {
            result[f].Turns[joint] = new Quaterniond(numbers[0][f], numbers[1][f], numbers[2][f], numbers[3][f]).Normalized();
        }
    }

    private static double Squared(double v) => v * v;

    /// <summary>Identity plus weight × squared second differences, factored.</summary>
    private static double[] Factor(int n, double weight)
    {
        const int row = 3;
        var a = new double[n * row];
        for (var f = 0; f < n; f++)
        {
            a[(f * row) + 2] += 1;
        }

        double[] second = [1, -2, 1];
        for (var f = 0; f + 2 < n; f++)
        {
            for (var i = 0; i < 3; i++)
            {
                for (var j = 0; j <= i; j++)
                {
                    a[((f + i) * row) + 2 - (i - j)] += weight * second[i] * second[j];
                }
            }
        }

        return BandCholesky.Factor(a, n, 2) ? a : throw new ArithmeticException("The smoothing has no solution.");
    }
}
