using Eidolon.Core.Operations;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>The Ledger as a page shows it: one list, grouped by what the entries are about.</summary>
/// <param name="Raw">The first line: what was recorded.</param>
/// <param name="OutOfDate">What is out of date, in words; empty when nothing is.</param>
/// <param name="Seconds">To bring it up, by how long it took last.</param>
public sealed record LedgerPanelModel(
    string Raw,
    IReadOnlyList<LedgerPanelModel.Group> Groups,
    IReadOnlyList<string> OutOfDate,
    double Seconds,
    int Revision
)
{
    /// <summary>A node with its entries.</summary>
    public sealed record Group(string Title, IReadOnlyList<Line> Lines);

    /// <summary>An entry as it stands.</summary>
    /// <param name="Place">Within its node.</param>
    /// <param name="Moves">May it trade places with a neighbour?</param>
    public sealed record Line(EntryRow Row, Entry Entry, EntryState State, int Place, bool Moves)
    {
        public string Title => OperationRegistry.TitleOf(Row.Operation);

        /// <summary>Made by an older version of its operation, which can be brought up.</summary>
        public bool Older => OperationRegistry.TryFind(Row.Operation, out var o) && o.Version != Row.Version;
    }

    public IEnumerable<Line> Lines => Groups.SelectMany(g => g.Lines);

    public static LedgerPanelModel Of(OpenTake open)
    {
        var groups = new List<Group> { Of("Markers", open.MarkerNode, open.Markers) };
        groups.AddRange(open.Performers.Select(p => Of(open.Performers.Count > 1 ? $"Solve, {p.Subject.Name}" : "Solve", p.Node, p.State)));
        groups.AddRange(open.Props.Select(p => Of(p.Subject.Name, p.Node, p.State)));
        groups.AddRange(open.Casts.Select(c => Of($"{c.Subject.Name} as the {c.Character!.Name}", c.Node, c.State)));
        groups.AddRange(open.Attached.Select(p => Of($"{p.Subject.Name}, attached", p.Node, p.State)));
        var raw = open.Take.FrameCount == 0 ? "nothing yet" : $"{open.Take.FrameCount} frames, raw";
        return new LedgerPanelModel(raw, Filled(groups), open.OutOfDate, open.SecondsToRun, open.Take.Revision);
    }

    public static LedgerPanelModel Of(OpenScene open)
    {
        var groups = open.Tracks.SelectMany(t =>
            new[]
            {
                Of(t.Subject.Name, t.Node, t.State),
                t.LayerNode is null ? null : Of($"{t.Subject.Name}, layers", t.LayerNode, t.Layers!),
            }
        );
        var raw = $"{open.Tracks.Count} track{(open.Tracks.Count == 1 ? string.Empty : "s")}";
        return new LedgerPanelModel(raw, Filled(groups.OfType<Group>()), open.OutOfDate, open.Look.SecondsToRun, open.Scene.Revision);
    }

    private static List<Group> Filled(IEnumerable<Group> groups) => [.. groups.Where(g => g.Lines.Count > 0)];

    private static Group Of(string title, NodeRow node, NodeState state)
    {
        var rows = node.Entries.OrderBy(e => e.Position).ToList();
        var entries = state.Node.Entries;
        bool Moves(int i) =>
            (i > 0 && EntryOrder.MayTrade(entries[i - 1], entries[i]))
            || (i + 1 < entries.Count && EntryOrder.MayTrade(entries[i], entries[i + 1]));
        return new Group(title, [.. rows.Select((r, i) => new Line(r, entries[i], state.Entries[i], i, Moves(i)))]);
    }
}
