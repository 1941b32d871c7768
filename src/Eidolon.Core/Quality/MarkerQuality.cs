using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Quality;

/// <summary>How good a state of labelled markers is, in numbers that can be compared; lower is better in all of them.</summary>
/// <param name="OpenGaps">Gaps inside the take, not at its ends.</param>
/// <param name="HiddenShare">Samples of named markers that are hidden, 0 to 1.</param>
/// <param name="LongestGap">Seconds.</param>
/// <param name="Jitter">RMS of acceleration above 15 Hz over all named markers, m/s²; NaN when the rate is too low to tell.</param>
public sealed record MarkerQuality(int OpenGaps, double HiddenShare, double LongestGap, int Spikes, int Swaps, double Jitter)
{
    /// <summary>Measures a take of markers.</summary>
    public static MarkerQuality Measure(MarkerTake take)
    {
        var named = take.Only([.. take.Names.Where(n => !MarkerNames.IsUnnamed(n))]);
        var gaps = GapTable.Of(named);
        var inside = gaps.SelectMany(g => g).Where(g => g.Start > 0 && g.End < named.FrameCount - 1).ToArray();
        var hidden = gaps.Sum(g => g.Sum(x => (long)x.Length));
        var squares = new double[named.MarkerCount];
        Parallel.For(0, squares.Length, MarkerFindings.Quietly, m =>
        {
            var path = new Vector3[named.FrameCount];
            for (var f = 0; f < path.Length; f++)
            {
                path[f] = named[f, m];
            }

            squares[m] = JitterMeasure.Measure(path, named.FrameRate) is var j ? j * j : 0;
        });
        var known = squares.Where(s => !double.IsNaN(s)).ToArray();
        return new MarkerQuality(
            inside.Length,
            named.Positions.Length == 0 ? 0 : (double)hidden / named.Positions.Length,
            inside.Select(g => g.Length).DefaultIfEmpty().Max() / named.FrameRate,
            Cleaning.Spikes.Find(named).Count,
            SwapFinder.Find(named).Count,
            known.Length == 0 ? double.NaN : Math.Sqrt(known.Average())
        );
    }
}
