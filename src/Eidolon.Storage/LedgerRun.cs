using Eidolon.Core.Operations;

namespace Eidolon.Storage;

/// <summary>A Ledger that was run: the data after it, what each entry said (null where it is off), and the name of that state.</summary>
/// <param name="Hash">Equal for equal samples and entries.</param>
public sealed record LedgerRun(TakeData Data, IReadOnlyList<EntryReport?> Results, UInt128 Hash);
