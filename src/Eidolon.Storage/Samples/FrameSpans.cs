using System.Globalization;

namespace Eidolon.Storage.Samples;

/// <summary>Frames from a first to a last one, both counted.</summary>
public readonly record struct FrameSpan(int First, int Last)
{
    public override string ToString() => First == Last ? $"{First}" : $"{First} to {Last}";
}

/// <summary>Spans of frames as they are kept in a row: "480-599,1200-1299".</summary>
public static class FrameSpans
{
    public static string Write(IEnumerable<FrameSpan> spans) =>
        string.Join(',', spans.Select(s => string.Create(CultureInfo.InvariantCulture, $"{s.First}-{s.Last}")));

    public static IReadOnlyList<FrameSpan> Read(string text) =>
        [
            .. text.Split(',', StringSplitOptions.RemoveEmptyEntries)
                .Select(p => p.Split('-'))
                .Select(p => new FrameSpan(int.Parse(p[0], CultureInfo.InvariantCulture), int.Parse(p[1], CultureInfo.InvariantCulture))),
        ];

    /// <summary>"480 to 599 and 1200 to 1299": for people.</summary>
    public static string Words(IReadOnlyList<FrameSpan> spans) => string.Join(" and ", spans);

    /// <summary>Is a span part of one of these?</summary>
    public static bool Contain(this IReadOnlyList<FrameSpan> spans, FrameSpan span) =>
        spans.Any(s => s.First <= span.First && span.Last <= s.Last);

    /// <summary>Neighbours become one span.</summary>
    public static IReadOnlyList<FrameSpan> Joined(IEnumerable<FrameSpan> spans)
    {
        var joined = new List<FrameSpan>();
        foreach (var span in spans.OrderBy(s => s.First))
        {
            if (joined.Count > 0 && joined[^1].Last + 1 >= span.First)
            {
                joined[^1] = joined[^1] with { Last = Math.Max(joined[^1].Last, span.Last) };
            }
            else
            {
                joined.Add(span);
            }
        }

        return joined;
    }
}
