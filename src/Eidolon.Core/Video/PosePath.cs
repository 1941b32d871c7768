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
