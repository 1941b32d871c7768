namespace Eidolon.Core.Formats.Csv;

/// <summary>Lays the rows of a table on a clock by their times: the rate is the one that most rows agree on, what is missing between rows is a gap.</summary>
internal static class RowTimes
{
    /// <summary>A row may be so far from its moment of the clock, in frames, before that is said.</summary>
    private const double Off = 0.2;

    /// <summary>A named rate and that of the rows are the same within this share.</summary>
    private const double Same = 0.02;

    /// <param name="times">Of each row, seconds.</param>
    /// <param name="named">The rate the head names; 0 where it names none.</param>
    /// <param name="line">Line of the first row.</param>
    /// <returns>The rate, frames a second, and the frame of each row; the first is 0.</returns>
    /// <exception cref="InvalidInputException">A time is repeated or runs backwards; names the line.</exception>
    public static (double Rate, int[] Frames) Place(
        IReadOnlyList<double> times,
        double named,
        int points,
        string file,
        int line,
        List<string> warnings
    )
    {
        if (times.Count < 2)
        {
            return (named > 0 ? named : 120, new int[times.Count]);
        }

        var steps = new double[times.Count - 1];
        for (var i = 0; i < steps.Length; i++)
        {
            steps[i] = times[i + 1] - times[i];
            if (!(steps[i] > 0))
            {
                throw new InvalidInputException(
                    file,
                    $"line {line + i + 1}",
                    steps[i] == 0
                        ? $"the time {times[i]} s stands in two rows"
                        : $"the time runs backwards, from {times[i]} s to {times[i + 1]} s"
                );
            }
        }

        var rate = Rate(steps, named, warnings);
        var frames = new int[times.Count];
        var (missing, off, at) = (0, 0, 0L);
        for (var i = 0; i < steps.Length; i++)
        {
            var step = steps[i] * rate;
            var whole = Math.Max(1, Math.Round(step));
            off += Math.Abs(step - whole) > Off ? 1 : 0;
            missing += whole > 1 ? 1 : 0;
            SampleBudget.Check(
                $"{file}, line {line + i + 1}, with its gap of {steps[i]:0.###} s",
                at + whole + 1,
                points,
                SampleBudget.MarkerBytes
            );
            frames[i + 1] = (int)(at += (long)whole);
        }

        if (missing > 0)
        {
            warnings.Add($"rows are missing at {missing} place{(missing == 1 ? "" : "s")}: {at + 1 - times.Count} frames there are gaps");
        }

        if (off > 0)
        {
            warnings.Add(
                $"{off} of {times.Count} rows are not at a moment of {rate:0.###} frames a second; each is read as its nearest frame"
            );
        }

        return (rate, frames);
    }

    private static double Rate(double[] steps, double named, List<string> warnings)
    {
        var sorted = (double[])steps.Clone();
        Array.Sort(sorted);
        var usual = sorted[sorted.Length / 2];
        // Times are written with few digits: the mean of the steps that are like the usual one tells more than one of them.
        var rate = FrameRates.Snap(1 / steps.Where(s => Math.Abs(s - usual) <= Same * usual).Average());
        if (named > 0 && Math.Abs(rate - named) <= Same * named)
        {
            return named;
        }

        warnings.Add(
            named > 0
                ? $"the head names {named:0.###} frames a second, the times of the rows say {rate:0.###}: that is read"
                : $"no frame rate is named; {rate:0.###} is read from the times"
        );
        return rate;
    }
}
