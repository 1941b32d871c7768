namespace Eidolon.Core.Formats;

/// <summary>Files give frame times rounded to a few digits; this finds the rate that was meant.</summary>
internal static class FrameRates
{
    /// <summary>No recording is slower or faster, frames a second.</summary>
    private const double Slowest = 1;
    private const double Fastest = 10_000;

    private static readonly double[] Known = [24000.0 / 1001, 30000.0 / 1001, 60000.0 / 1001, 120000.0 / 1001];

    public static bool IsUsable(double rate) => rate is >= Slowest and <= Fastest;

    /// <summary>A rate that a recording can have.</summary>
    /// <exception cref="InvalidInputException">It cannot.</exception>
    public static double Usable(double rate, string file, string place) =>
        IsUsable(rate)
            ? rate
            : throw new InvalidInputException(
                file,
                place,
                $"a rate of {rate:g6} frames a second is none that a recording has ({Slowest} to {Fastest})"
            );

    /// <summary>The whole or broadcast rate within 0.02 % of <paramref name="rate"/>, otherwise the rate itself.</summary>
    public static double Snap(double rate)
    {
        var whole = Math.Round(rate);
        if (whole > 0 && Math.Abs(rate - whole) / whole < 2e-4)
        {
            return whole;
        }

        foreach (var k in Known)
        {
            if (Math.Abs(rate - k) / k < 2e-4)
            {
                return k;
            }
        }

        return rate;
    }
}
