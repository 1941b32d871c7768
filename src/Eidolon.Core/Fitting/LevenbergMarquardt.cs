namespace Eidolon.Core.Fitting;

/// <summary>The one driver of damped Gauss–Newton fits: one pose to one frame, a body to many frames, a ring of cameras to its wands.</summary>
/// <remarks>
/// Levenberg 1944, Marquardt 1963; damping that grows ever faster after refused steps: Nielsen, "Damping Parameter in Marquardt's Method", 1999.
/// Dense problems of a few unknowns without structure are left to MathNet's own minimizer.
/// </remarks>
internal static class LevenbergMarquardt
{
    /// <summary>Moves a problem downhill until it converges; it stands at the best place found when this returns.</summary>
    /// <exception cref="OperationCanceledException">The problem stands at the last step taken.</exception>
    public static FitReport Run<T>(T problem, in FitOptions options, CancellationToken cancel = default, Action<double>? progress = null)
        where T : class, ILeastSquares
    {
        double before = problem.Cost(),
            cost = before,
            damping = options.Damping;
        var solves = 0;
        for (var step = 0; step < options.Steps; step++)
        {
            cancel.ThrowIfCancellationRequested();
            progress?.Invoke(step / (double)options.Steps);
            problem.Linearise();
            var growth = options.Growth;
            double next;
            for (var attempt = 0; ; attempt++)
            {
                if (attempt == options.Attempts)
                {
                    return new FitReport(before, cost, step, solves, FitEnd.NoBetterStep);
                }

                solves++;
                // A cost that is no number is not lower either.
                if (problem.Try(damping) is double tried && tried <= cost)
                {
                    next = tried;
                    break;
                }

                problem.Reject();
                damping = Math.Max(damping, options.LeastAgain) * growth;
                growth *= 2;
            }

            problem.Accept();
            damping = Math.Max(options.Least, damping * options.Shrink);
            var converged = cost - next <= options.Tolerance * cost;
            cost = next;
            if (converged)
            {
                return new FitReport(before, cost, step + 1, solves, FitEnd.Converged);
            }
        }

        return new FitReport(before, cost, options.Steps, solves, FitEnd.StepsUsed);
    }
}
