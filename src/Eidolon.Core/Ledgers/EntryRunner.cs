using Eidolon.Core.Operations;

namespace Eidolon.Core.Ledgers;

/// <summary>Runs entries over one value, one after the other, with nothing kept: what the command line does.</summary>
public static class EntryRunner
{
    /// <returns>The value after all entries that are on, and what each said (null where it is off).</returns>
    /// <exception cref="RefusedException">An entry cannot run; says why.</exception>
    public static (NodeValue Value, IReadOnlyList<EntryReport?> Reports) Run(
        NodeValue value,
        IReadOnlyList<Entry> entries,
        OperationContext context
    )
    {
        var reports = new List<EntryReport?>();
        foreach (var entry in entries)
        {
            context.Cancel.ThrowIfCancellationRequested();
            var result = entry.On
                ? OperationRegistry.Find(entry.Operation).Run(new OperationInput(value), entry.Parameters, context)
                : null;
            value = result?.Value ?? value;
            reports.Add(result);
        }

        return (value, reports);
    }
}
