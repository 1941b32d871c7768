namespace Eidolon.Core.Markers;

/// <summary>The gaps of every marker, found in one pass over the frames.</summary>
public static class GapTable
{
    /// <returns>[marker]: its gaps in order, the ends of the take included.</returns>
    public static IReadOnlyList<Gap>[] Of(MarkerTake take)
    {
        var gaps = new List<Gap>[take.MarkerCount];
        var open = new int[take.MarkerCount];
        for (var m = 0; m < gaps.Length; m++)
        {
            (gaps[m], open[m]) = ([], -1);
        }

        for (var f = 0; f < take.FrameCount; f++)
        {
            var row = take.At(f);
            for (var m = 0; m < row.Length; m++)
            {
                if (!MarkerTake.Seen(row[m]))
                {
                    open[m] = open[m] < 0 ? f : open[m];
                }
                else if (open[m] >= 0)
                {
                    gaps[m].Add(new Gap(open[m], f - 1));
                    open[m] = -1;
                }
            }
        }

        for (var m = 0; m < gaps.Length; m++)
        {
            if (open[m] >= 0)
            {
                gaps[m].Add(new Gap(open[m], take.FrameCount - 1));
            }
        }

        return gaps;
    }
}
