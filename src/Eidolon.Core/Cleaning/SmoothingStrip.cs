using Eidolon.Core.Markers;

namespace Eidolon.Core.Cleaning;

/// <summary>
/// What a cut-off would do, along the take: kinetic energy of all named markers before and after, and the cut-off that residual analysis
/// proposes.
/// </summary>
/// <param name="Before">Mean squared step of a sample by bin, m²; what comes of it is <paramref name="After"/>.</param>
/// <param name="Kept">Share of energy kept over the take, 0 to 1.</param>
/// <param name="Softest">First frame of the bin that loses most of its own energy, among those that move.</param>
/// <param name="SoftestKept">What that bin keeps, 0 to 1.</param>
public sealed record SmoothingStrip(double[] Before, double[] After, double Kept, int Softest, double SoftestKept, double Proposed)
{
    /// <summary>Bins with less than this share of the strongest bin's energy are at rest: noise is most of what they lose.</summary>
    private const double Moving = 0.05;

    /// <param name="bins">At most so many; fewer for short takes.</param>
    public static SmoothingStrip Of(MarkerTake take, double cutoff, int bins)
    {
        var named = take.Only([.. take.Names.Where(n => !MarkerNames.IsUnnamed(n))]);
        var (smooth, kept, _) = MarkerSmoother.Smooth(named, cutoff);
        bins = Math.Clamp(take.FrameCount / 4, 1, bins);
        var (before, after) = (new double[bins], new double[bins]);
        for (var b = 0; b < bins; b++)
        {
            var end = Math.Min(take.FrameCount, (int)((long)(b + 1) * take.FrameCount / bins));
            for (var f = Math.Max(1, (int)((long)b * take.FrameCount / bins)); f < end; f++)
            {
                for (var m = 0; m < named.MarkerCount; m++)
                {
                    var step = (named[f, m] - named[f - 1, m]).LengthSquared();
                    if (!float.IsNaN(step))
                    {
                        before[b] += step;
                        after[b] += (smooth[f, m] - smooth[f - 1, m]).LengthSquared();
                    }
                }
            }
        }

        var most = before.Max();
        var softest = Enumerable
            .Range(0, bins)
            .Where(b => before[b] > Moving * most)
            .DefaultIfEmpty(0)
            .MinBy(b => after[b] / Math.Max(1e-12, before[b]));
        double[] cutoffs =
        [
            .. Enumerable
                .Range(0, named.MarkerCount)
                .Where(m => m % Math.Max(1, named.MarkerCount / 16) == 0)
                .AsParallel()
                .Select(m => MarkerSmoother.Cutoff(named, m))
                .Order(),
        ];
        return new SmoothingStrip(
            before,
            after,
            kept,
            (int)((long)softest * take.FrameCount / bins),
            Math.Min(1, after[softest] / Math.Max(1e-12, before[softest])),
            cutoffs.Length == 0 ? 12 : cutoffs[cutoffs.Length / 2]
        );
    }
}
