using Eidolon.Core.Operations;
using Eidolon.Storage.Model;

namespace Eidolon.Studio.Services;

/// <summary>A take opened: its row, its Ledger's results and the data now.</summary>
public sealed record OpenTake(Take Take, StudioResources Resources, TakeData Data, IReadOnlyList<OperationResult?> Results)
{
    /// <summary>The first performer of the slate: whose motion is solved.</summary>
    public string FirstPerformer => Take.Performer.Split(", ")[0];

    /// <summary>The report of the last entry of an operation that is on, or null.</summary>
    public OperationResult? Last(string operation)
    {
        var rows = Take.Ledger.OrderBy(l => l.Position).ToList();
        var i = rows.FindLastIndex(l => l.On && l.Operation == operation);
        return i < 0 ? null : Results[i];
    }

    public bool Has(string operation) => Take.Ledger.Exists(l => l.On && l.Operation == operation);
}
