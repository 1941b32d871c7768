using System.Text.Json.Nodes;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Operations;

/// <summary>Keep a range of the take; the raw samples stay as they were recorded.</summary>
public static class TrimOperations
{
    private const int Shortest = 10;

    /// <summary>Of the markers, and with them of everything that stands on them; parameters: from, to (frames, both kept).</summary>
    public static Operation Trim { get; } = new("trim", 1, NodeKind.Markers, "Clean", "Trim", (input, p, _) =>
        {
            var data = input.Markers;
            if (data.Take.MarkerCount == 0)
            {
                throw new RefusedException("the take holds no markers to trim; trim its motion");
            }

            var (from, to) = RangeOf(p, data.FrameCount);
            var pinned = data.Pinned.Where(x => x.End >= from && x.Start <= to);
            var trimmed = new MarkerValue(data.Take.Range(from, to + 1))
            {
                Pinned = [.. pinned.Select(x => x with { Start = Math.Max(0, x.Start - from), End = Math.Min(to, x.End) - from })],
                Automatic = data.Automatic,
            };
            return new OperationResult(trimmed, $"{from} to {to}, {to - from + 1} frames", []);
        }) { FitsRecipe = _ => false };

    /// <summary>Of a motion that was brought in without markers; parameters: from, to (frames, both kept).</summary>
    public static Operation TrimMotion { get; } = new("trim-motion", 1, NodeKind.Solve, "Clean", "Trim", (input, p, _) =>
        {
            var data = input.Moving("the take holds nothing to trim");
            var (from, to) = RangeOf(p, data.FrameCount);
            var contacts = data.Contacts.Where(c => c.End >= from && c.Start <= to);
            var trimmed = new MotionValue(MotionEdits.Range(data.Motion, from, to + 1))
            {
                Contacts = [.. contacts.Select(c => c with { Start = Math.Max(0, c.Start - from), End = Math.Min(to, c.End) - from })],
            };
            return new OperationResult(trimmed, $"{from} to {to}, {to - from + 1} frames", []);
        }) { FitsRecipe = _ => false };

    /// <summary>Where most named markers are seen for the first and for the last time: what a take is usually trimmed to.</summary>
    public static (int From, int To) Usable(MarkerTake take)
    {
        var named = Enumerable.Range(0, take.MarkerCount).Where(m => !MarkerNames.IsUnnamed(take.Names[m])).ToArray();
        bool Good(int f) => named.Count(m => MarkerTake.Seen(take[f, m])) * 10 >= named.Length * 9;
        var (from, to) = (0, take.FrameCount - 1);
        while (from < to && !Good(from))
        {
            from++;
        }

        while (to > from && !Good(to))
        {
            to--;
        }

        return to > from ? (from, to) : (0, take.FrameCount - 1);
    }

    private static (int From, int To) RangeOf(JsonObject p, int frames)
    {
        var (from, to) = (Math.Max(0, p.Whole("from", 0)), Math.Min(frames - 1, p.Whole("to", frames - 1)));
        return to - from + 1 >= Shortest
            ? (from, to)
            : throw new RefusedException(
                $"at least {Shortest} frames must stay; frames {from} to {to} were asked for, the take has {frames}"
            );
    }
}
