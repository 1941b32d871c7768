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

    /// <summary>Who hardly moves accelerates less: no more than the path around says, by this share and more, over so much time; seconds.</summary>
    private const double Around = 0.2,
        Room = 2;

    /// <summary>What the path around is told from: a path this much smoother, and never less than this share of a body's accelerations.</summary>
    private const double Coarse = 0.6,
        Least = 0.04;

    /// <param name="spread">How far a frame's pose may be off: radians, and metres of the root.</param>
    public static ModelPose[] Smooth(ArticulatedModel model, IReadOnlyList<ModelPose> poses, double rate, double spread)
    {
        var n = poses.Count;
        var result = poses.Select(_ => new ModelPose(model)).ToArray();
        var (turns, moves) = (new Smoother(n, rate, spread, Turning), new Smoother(n, rate, spread, Moving));
        var line = new double[n];
        for (var d = 0; d < model.DofCount; d++)
        {
            for (var f = 0; f < n; f++)
            {
                line[f] = poses[f].Values[d];
            }

            (d < 3 ? moves : turns).Run([line]);
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

    private static void SmoothTurns(IReadOnlyList<ModelPose> poses, ModelPose[] result, int joint, Smoother smoother)
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

        smoother.Run(numbers);

        for (var f = 0; f < n; f++)
        {
            result[f].Turns[joint] = new Quaterniond(numbers[0][f], numbers[1][f], numbers[2][f], numbers[3][f]).Normalized();
        }
    }

    /// <summary>Lines of one kind made smooth, each as smooth as it is by itself.</summary>
    private sealed class Smoother
    {
        private readonly int _frames;
        private readonly int _half;
        private readonly double _still;
        private readonly double _most;
        private readonly double[] _coarse;

        /// <param name="most">Accelerations of a body, in the line's unit a second squared.</param>
        public Smoother(int frames, double rate, double spread, double most)
        {
            (_frames, _most, _still) = (frames, most, rate * rate * spread);
            _half = Math.Max(1, (int)Math.Round(Around * rate));
            Square = rate * rate;
            _coarse = Factor(frames, _ => _still / (Coarse * most));
        }

        private double Square { get; }

        /// <summary>Lines that belong together are smoothed alike.</summary>
        public void Run(double[][] lines)
        {
            var own = Accelerations(lines);
            var factor = Factor(_frames, f => _still / own[f]);
            foreach (var line in lines)
            {
                BandCholesky.Solve(factor, _frames, 2, line);
            }
        }

        /// <summary>What each frame may accelerate: the RMS of a smoother path around it, and some room.</summary>
        private double[] Accelerations(double[][] lines)
        {
            var squares = new double[_frames + 1];
            var power = new double[_frames];
            foreach (var line in lines)
            {
                var path = (double[])line.Clone();
                BandCholesky.Solve(_coarse, _frames, 2, path);
                for (var f = 1; f + 1 < _frames; f++)
                {
                    var a = (path[f - 1] - (2 * path[f]) + path[f + 1]) * Square;
                    power[f] += a * a;
                }
            }

            for (var f = 0; f < _frames; f++)
            {
                squares[f + 1] = squares[f] + power[f];
            }

            var result = new double[_frames];
            for (var f = 0; f < _frames; f++)
            {
                var (a, b) = (Math.Max(0, f - _half), Math.Min(_frames, f + _half + 1));
                result[f] = Math.Clamp(Room * Math.Sqrt((squares[b] - squares[a]) / (b - a)), Least * _most, _most);
            }

            return result;
        }
    }

    /// <summary>Identity plus squared second differences, each by the square of a weight of its middle frame, factored.</summary>
    private static double[] Factor(int n, Func<int, double> weight)
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
            var w = weight(f + 1);
            for (var i = 0; i < 3; i++)
            {
                for (var j = 0; j <= i; j++)
                {
                    a[((f + i) * row) + 2 - (i - j)] += w * w * second[i] * second[j];
                }
            }
        }

        return BandCholesky.Factor(a, n, 2) ? a : throw new ArithmeticException("The smoothing has no solution.");
    }
}
