using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Storage.Model;

namespace Eidolon.Studio.Services;

/// <summary>The eight Steps and how far a take has come.</summary>
public static class StepThread
{
    public static IReadOnlyList<string> Names { get; } = ["Record", "Label", "Clean", "Solve", "Retarget", "Assemble", "Polish", "Export"];

    /// <summary>Which Steps a take was through at the last look.</summary>
    public static bool[] Through(Take take) => [.. Enumerable.Range(0, Names.Count).Select(i => (take.Through >> i & 1) == 1)];

    /// <summary>The Steps of an opened take as a bit each; the scene's own come with it.</summary>
    /// <param name="scene">What the take's scene is through, the same bits; 0 when there is none.</param>
    public static int Bits(OpenTake open, int scene)
    {
        var take = open.Marked;
        var labelled =
            open.Markers.Has("label") || take.Names.Any(n => !MarkerNames.IsUnnamed(n)) || (take.MarkerCount == 0 && open.Solved.Any());
        bool[] through =
        [
            open.Take.State == TakeState.Kept,
            labelled,
            open.Markers.Node.Entries.Any(e => e.On && OperationRegistry.TryFind(e.Operation, out var o) && o.Step == "Clean"),
            open.Performers.Count > 0
                && open.Performers.All(p => p.State.Has("solve") || p.State is { UpToDate: true, Node.Inputs.Count: 0 }),
            open.Casts.Any(c => c.State.Has("retarget")),
        ];
        return through.Select((t, i) => t ? 1 << i : 0).Sum() | (scene & ~0b11111);
    }

    /// <summary>The next Step to do.</summary>
    public static int Next(Take take)
    {
        var last = Array.FindLastIndex(Through(take), t => t);
        return Math.Min(last + 1, Names.Count - 1);
    }
}
