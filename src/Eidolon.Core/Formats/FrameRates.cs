namespace Eidolon.Core.Formats;

/// <summary>Files give frame times rounded to a few digits; this finds the rate that was meant.</summary>
internal static class FrameRates
{
    private static readonly double[] Known = [24000.0 / 1001, 30000.0 / 1001, 60000.0 / 1001, 120000.0 / 1001];

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
