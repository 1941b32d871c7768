using Eidolon.Core.Markers;

namespace Eidolon.Core.Labelling;

/// <summary>
/// Tells whether two labelled takes show the same performer in the same suit: markers of one segment keep their distances, and no two people
/// wear them alike.
/// </summary>
public static class BodyLikeness
{
    /// <summary>
    /// Mean difference of distances up to which it is the same body, metres; skin moves medians by one or two millimetres, people differ by
    /// more than five.
    /// </summary>
    public const double Same = 0.0035;

    private const int FewestPairs = 5;

    /// <summary>Mean difference of the middle distances between markers of one segment, metres; NaN when there is too little to compare.</summary>
    public static double Difference(MarkerTake a, MarkerTake b, MarkerSet set)
    {
        var differences = new List<double>();
        foreach (var segment in set.Markers.GroupBy(m => m.Segment))
        {
            var names = segment.Select(m => m.Name).ToArray();
            for (var i = 0; i < names.Length; i++)
            {
                for (var k = i + 1; k < names.Length; k++)
                {
                    if (Middle(a, names[i], names[k]) is { } x && Middle(b, names[i], names[k]) is { } y)
                    {
                        differences.Add(Math.Abs(x - y));
                    }
                }
            }
        }

        return differences.Count < FewestPairs ? double.NaN : differences.Average();
    }

    private static double? Middle(MarkerTake take, string a, string b)
    {
        var (i, j) = (take.IndexOf(a), take.IndexOf(b));
        if (i < 0 || j < 0)
        {
            return null;
        }

        var lengths = TakeLinks.Lengths(take, i, j, 500);
        return lengths.Count < 10 ? null : lengths[lengths.Count / 2];
    }
}
