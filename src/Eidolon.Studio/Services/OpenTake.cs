using Eidolon.Core.Operations;
using Eidolon.Storage.Model;

namespace Eidolon.Studio.Services;

/// <summary>A take opened: its row, its Ledger's results and the data now.</summary>
/// <param name="Hash">Names the state; equal for equal samples and entries.</param>
public sealed record OpenTake(Take Take, StudioResources Resources, TakeData Data, IReadOnlyList<EntryReport?> Results, UInt128 Hash)
{
    /// <summary>The state's name as pages know it.</summary>
    public string State => Hash.ToString("x32");

    /// <summary>The first performer of the slate: whose motion is solved.</summary>
    public string FirstPerformer => Take.Performer.Split(", ")[0];

    /// <summary>Frames there are now: a trim leaves fewer than were recorded.</summary>
    public int FrameCount => Data.Markers is { MarkerCount: > 0 } m ? m.FrameCount : Data.Final?.FrameCount ?? Take.FrameCount;

    /// <summary>The report of the last entry of an operation that is on, or null.</summary>
    public EntryReport? Last(string operation)
    {
        var rows = Take.Ledger.OrderBy(l => l.Position).Take(Results.Count).ToList();
        var i = rows.FindLastIndex(l => l.On && l.Operation == operation);
        return i < 0 ? null : Results[i];
    }

    public bool Has(string operation) => Take.Ledger.Exists(l => l.On && l.Operation == operation);
}
