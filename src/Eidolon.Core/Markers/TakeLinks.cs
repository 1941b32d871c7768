namespace Eidolon.Core.Markers;

/// <summary>The links of a marker set as columns of a take, for every performer in it, and how long they are.</summary>
public static class TakeLinks
{
    /// <summary>Both ends of each link that is in the take.</summary>
    public static List<(int A, int B)> Of(MarkerTake take, MarkerSet set)
    {
        var links = new List<(int, int)>();
        foreach (var who in take.Names.Select(n => MarkerNames.Split(n).Performer).Distinct())
        {
            foreach (var (a, b) in set.Links)
            {
                int i = take.IndexOf(MarkerNames.Join(who, a)),
                    j = take.IndexOf(MarkerNames.Join(who, b));
                if (i >= 0 && j >= 0)
                {
                    links.Add((i, j));
                }
            }
        }

        return links;
    }

    /// <summary>Distances of two columns in frames spread over the take in which both are seen, shortest first, metres.</summary>
    /// <param name="samples">About so many frames are looked at.</param>
    public static List<float> Lengths(MarkerTake take, int a, int b, int samples)
    {
        var lengths = new List<float>();
        for (var f = 0; f < take.FrameCount; f += Math.Max(1, take.FrameCount / samples))
        {
            var d = (take[f, a] - take[f, b]).Length();
            if (!float.IsNaN(d))
            {
                lengths.Add(d);
            }
        }

        lengths.Sort();
        return lengths;
    }
}
