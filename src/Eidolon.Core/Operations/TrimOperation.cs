using System.Text.Json.Nodes;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Operations;

/// <summary>Keeps a range of the take; the raw samples stay as they were recorded.</summary>
public static class TrimOperation
{
    private const int Shortest = 10;

    /// <summary>Parameters: from, to (frames, both kept).</summary>
    public static Operation Trim { get; } = new("trim", 1, "Clean", "Trim", (data, p, _) =>
        {
            var frames = data.Markers is { MarkerCount: > 0 } m
                ? m.FrameCount
                : data.Final?.FrameCount ?? throw new ArgumentException("the take holds nothing to trim");
            var (from, to) = (Math.Max(0, p.Whole("from", 0)), Math.Min(frames - 1, p.Whole("to", frames - 1)));
            if (to - from + 1 < Shortest)
            {
                throw new ArgumentException(
                    $"at least {Shortest} frames must stay; frames {from} to {to} were asked for, the take has {frames}"
                );
            }

            Motion? Cut(Motion? motion) =>
                motion is null
                    ? null
                    : MotionEdits.Range(motion, Math.Min(from, motion.FrameCount - 2), Math.Min(to + 1, motion.FrameCount));
            var trimmed = new TakeData(data.Markers?.Range(from, to + 1), Cut(data.Performer), Cut(data.Character), data.CharacterName)
            {
                Contacts =
                [
                    .. data
                        .Contacts.Where(c => c.End >= from && c.Start <= to)
                        .Select(c => c with { Start = Math.Max(0, c.Start - from), End = Math.Min(to, c.End) - from }),
                ],
                Pinned =
                [
                    .. data
                        .Pinned.Where(x => x.End >= from && x.Start <= to)
                        .Select(x => x with { Start = Math.Max(0, x.Start - from), End = Math.Min(to, x.End) - from }),
                ],
                Automatic = data.Automatic,
            };
            return new OperationResult(trimmed, $"{from} to {to}, {to - from + 1} frames", []);
        });

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
}
