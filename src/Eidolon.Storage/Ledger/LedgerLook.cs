using Eidolon.Core;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.Storage.Model;

namespace Eidolon.Storage.Ledger;

/// <summary>A Ledger as it stands: its nodes, and the runner that knows their states.</summary>
public sealed record LedgerLook(LedgerOwner Owner, IReadOnlyList<NodeRow> Rows, LedgerRunner Runner, StoredNodes Nodes)
{
    public NodeRow? Find(NodeKind kind, int subject = 0, int target = 0) =>
        Rows.FirstOrDefault(n => n.Kind == kind && n.SubjectId == subject && n.TargetId == target);

    /// <summary>The layers over a track; null for a prop's.</summary>
    public NodeRow? LayersOver(NodeRow track) =>
        Rows.FirstOrDefault(n => n.Kind == NodeKind.Layers && n.SubjectId == track.SubjectId && n.Source == track.Source);

    public IEnumerable<NodeRow> Of(NodeKind kind) => Rows.Where(n => n.Kind == kind);

    /// <summary>What operations in a node may use.</summary>
    public IResources Resources(NodeRow row) => Nodes.Resources(row);

    public NodeState State(NodeRow row) => Runner.Look(row.Id);

    /// <summary>What a node shows; null when there is nothing, or what there is cannot be read.</summary>
    public NodeValue? Value(NodeRow row)
    {
        try
        {
            return Runner.Value(row.Id);
        }
        catch (DamagedDataException)
        {
            return null;
        }
    }

    /// <summary>Everything that is out of date and could run.</summary>
    public IEnumerable<NodeState> OutOfDate => Rows.Select(State).Where(s => s.OutOfDate);

    /// <summary>Seconds to bring all of it up to date, by how long it took last.</summary>
    public double SecondsToRun => OutOfDate.Sum(s => s.SecondsToRun);
}
