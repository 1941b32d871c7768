using Eidolon.Core.Markers;

namespace Eidolon.StandIns.Truth;

/// <summary>Given names against true ones, sample by sample.</summary>
public static class NameScore
{
    /// <summary>Shares of all samples that were seen: with their own name, and with another's.</summary>
    public static (double Right, double Wrong) Count(MarkerTake seen, MarkerTake labelled)
    {
        long all = 0,
            right = 0,
            wrong = 0;
        for (var m = 0; m < seen.MarkerCount; m++)
        {
            var column = labelled.IndexOf(seen.Names[m]);
            for (var f = 0; f < seen.FrameCount; f++)
            {
                var truth = seen[f, m];
                var given = column < 0 ? MarkerTake.Hidden : labelled[f, column];
                all += MarkerTake.Seen(truth) ? 1 : 0;
                right += MarkerTake.Seen(truth) && given == truth ? 1 : 0;
                wrong += MarkerTake.Seen(given) && given != truth ? 1 : 0;
            }
        }

        return (right / (double)all, wrong / (double)all);
    }
}
