using Eidolon.Core.Operations;

namespace Eidolon.Core.Ledgers;

/// <summary>A node of a Ledger: whose it is, what it stands on, and its own entries in order.</summary>
/// <param name="Id">Known to the store; the same as long as the node lives.</param>
/// <param name="Inputs">Ids of the nodes it stands on.</param>
public sealed record LedgerNode(int Id, NodeKind Kind, NodeScope Scope, IReadOnlyList<int> Inputs, IReadOnlyList<Entry> Entries)
{
    /// <summary>The key of the result each entry had when it was kept last, to show while it is out of date; null when it never had one.</summary>
    public IReadOnlyList<UInt128?> LastKeys { get; init; } = [];
}

/// <summary>What a node holds before its entries, e.g. the raw samples.</summary>
/// <param name="Content">Known without reading the samples.</param>
/// <param name="Load">Reads them; throws <see cref="DamagedDataException"/> where they are damaged.</param>
public sealed record NodeRoot(UInt128 Content, Func<NodeValue> Load)
{
    /// <summary>What is damaged, in words; nothing is made of it until it is whole.</summary>
    public string? Damage { get; init; }
}

/// <summary>Where nodes come from: a database, or a test.</summary>
public interface INodeSource
{
    /// <exception cref="RefusedException">There is no such node (any more).</exception>
    LedgerNode Node(int id);

    /// <summary>What stands before a node's entries; null when nothing does.</summary>
    NodeRoot? Root(LedgerNode node);

    /// <summary>What operations in this node may use.</summary>
    IResources Resources(LedgerNode node);
}
