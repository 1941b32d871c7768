using Eidolon.Core.Operations;

namespace Eidolon.Core.Ledgers;

/// <summary>A value that is made of what there is now, and may leave the Ledger.</summary>
/// <param name="Content">Its content hash.</param>
/// <param name="Inputs">Content hashes of what it was made of, in the order of the node's inputs.</param>
public sealed record Target(NodeValue Value, UInt128 Content, IReadOnlyList<UInt128> Inputs);
