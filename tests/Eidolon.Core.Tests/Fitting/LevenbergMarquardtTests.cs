using Eidolon.Core.Fitting;

namespace Eidolon.Core.Tests.Fitting;

public sealed class LevenbergMarquardtTests
{
    /// <summary>Rosenbrock's valley: residuals 10·(y − x²) and 1 − x, least at (1, 1).</summary>
    private sealed class Valley(double x, double y) : ILeastSquares
    {
        private readonly double[] _h = new double[3];
        private readonly double[] _g = new double[2];
        private (double X, double Y) _tried;

        public double X { get; private set; } = x;

        public double Y { get; private set; } = y;

        public List<double> Taken { get; } = [];

        public List<double> Dampings { get; } = [];

        /// <summary>What stands in for costs, to lead the driver astray.</summary>
        public Func<double, double?> Said { get; init; } = c => c;

        public int Rejected { get; private set; }

        public double Cost() => At(X, Y);

        public void Linearise()
        {
            double r1 = 10 * (Y - (X * X)),
                r2 = 1 - X,
                a = -20 * X;
            (_g[0], _g[1]) = ((a * r1) - r2, 10 * r1);
            (_h[0], _h[1], _h[2]) = ((a * a) + 1, a * 10, 100);
        }

        public double? Try(double damping)
        {
            Dampings.Add(damping);
            double h0 = _h[0] * (1 + damping),
                h2 = _h[2] * (1 + damping),
                det = (h0 * h2) - (_h[1] * _h[1]);
            _tried = (X - (((h2 * _g[0]) - (_h[1] * _g[1])) / det), Y - (((h0 * _g[1]) - (_h[1] * _g[0])) / det));
            return Said(At(_tried.X, _tried.Y));
        }

        public void Accept()
        {
            (X, Y) = _tried;
            Taken.Add(Cost());
        }

        public void Reject() => Rejected++;

        private static double At(double x, double y) => 0.5 * ((100 * (y - (x * x)) * (y - (x * x))) + ((1 - x) * (1 - x)));
    }

    [Theory]
    [InlineData(-1.2, 1)]
    [InlineData(3, -4)]
    [InlineData(-5, 20)]
    public void The_bottom_of_a_bent_valley_is_found_and_no_step_leads_upwards(double x, double y)
    {
        var valley = new Valley(x, y);
        var before = valley.Cost();
        var report = LevenbergMarquardt.Run(valley, new FitOptions { Steps = 200, Tolerance = 1e-12 });
        Assert.Equal(1, valley.X, 1e-4);
        Assert.Equal(1, valley.Y, 1e-4);
        Assert.Equal(FitEnd.Converged, report.End);
        Assert.Equal(before, report.Before);
        Assert.Equal(valley.Cost(), report.Cost);
        Assert.Equal(valley.Taken.Count, report.Steps);
        Assert.Equal(valley.Dampings.Count, report.Solves);
        Assert.Equal(report.Solves - report.Steps, valley.Rejected);
        // The full step from the first two starts overshoots: it is refused, never taken.
        Assert.Equal(valley.Taken.OrderDescending(), valley.Taken);
        Assert.True(valley.Taken[0] <= before);
    }

    [Fact]
    public void Damping_shrinks_after_a_step_that_helps_and_grows_ever_faster_after_others()
    {
        var refuse = 3;
        var valley = new Valley(0.9, 0.8) { Said = c => refuse-- > 0 ? double.PositiveInfinity : c };
        LevenbergMarquardt.Run(
            valley,
            new FitOptions
            {
                Steps = 2,
                Damping = 1e-3,
                Growth = 2,
                Shrink = 0.5,
                Tolerance = 0,
            }
        );
        Assert.Equal([1e-3, 2e-3, 8e-3, 64e-3, 32e-3], valley.Dampings, (a, b) => Math.Abs(a - b) < 1e-12);
    }

    [Fact]
    public void What_is_no_number_or_cannot_be_solved_is_never_taken()
    {
        foreach (var bad in new double?[] { double.NaN, null, double.PositiveInfinity })
        {
            var valley = new Valley(-1.2, 1) { Said = _ => bad };
            var report = LevenbergMarquardt.Run(valley, new FitOptions { Attempts = 4 });
            Assert.Equal(FitEnd.NoBetterStep, report.End);
            Assert.Equal((-1.2, 1), (valley.X, valley.Y));
            Assert.Equal((0, 4, 4), (report.Steps, report.Solves, valley.Rejected));
            Assert.Equal(report.Before, report.Cost);
        }
    }

    [Fact]
    public void Steps_are_counted_out_and_damping_has_a_floor()
    {
        var valley = new Valley(-1.2, 1);
        var report = LevenbergMarquardt.Run(
            valley,
            new FitOptions
            {
                Steps = 3,
                Damping = 1e-8,
                Least = 1e-8,
            }
        );
        Assert.Equal((FitEnd.StepsUsed, 3), (report.End, report.Steps));
        Assert.All(valley.Dampings, d => Assert.True(d >= 1e-8));
    }

    [Fact]
    public void A_refused_step_is_tried_again_with_a_damping_that_can_be_felt()
    {
        var refuse = 1;
        var valley = new Valley(0.9, 0.8) { Said = c => refuse-- > 0 ? double.NaN : c };
        LevenbergMarquardt.Run(
            valley,
            new FitOptions
            {
                Steps = 1,
                Damping = 1e-9,
                LeastAgain = 1e-5,
                Growth = 2,
            }
        );
        Assert.Equal(2e-5, valley.Dampings[1], 1e-12);
    }

    [Fact]
    public void A_fit_that_is_stopped_stands_at_the_last_step_taken_and_says_how_far_it_was()
    {
        using var stop = new CancellationTokenSource();
        var valley = new Valley(-1.2, 1);
        var said = new List<double>();
        Assert.Throws<OperationCanceledException>(() =>
            LevenbergMarquardt.Run(valley, new FitOptions { Steps = 10, Tolerance = 0 }, stop.Token, p =>
            {
                said.Add(p);
                if (said.Count == 3)
                {
                    stop.Cancel();
                }
            })
        );
        Assert.Equal(3, valley.Taken.Count);
        Assert.Equal(valley.Taken[^1], valley.Cost());
        Assert.Equal([0, 0.1, 0.2], said);
    }
}
