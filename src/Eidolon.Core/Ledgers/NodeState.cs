using System.Text.Json.Nodes;
using Eidolon.Core.Operations;

namespace Eidolon.Core.Ledgers;

/// <summary>How an entry stands.</summary>
public enum EntryStanding
{
    /// <summary>Its result is made of what there is now.</summary>
    Done,

    /// <summary>Switched off.</summary>
    Off,

    /// <summary>Something it was made of has changed; what is shown is the result before, until it is brought up to date.</summary>
    OutOfDate,

    /// <summary>It cannot run; the reason says why.</summary>
    Refused,

    /// <summary>It waits for an entry or a node before it.</summary>
    Waiting,
}

/// <summary>An entry as it stands now.</summary>
/// <param name="Report">What it said; for an entry that is out of date, what it said before.</param>
/// <param name="Reason">Why it does not run; empty when it does.</param>
/// <param name="Key">Of its present result; null where that cannot be told.</param>
/// <param name="Seconds">How long it took when it ran last.</param>
public sealed record EntryState(EntryStanding Standing, EntryReport? Report, string Reason, UInt128? Key, UInt128? Content, double Seconds);

/// <summary>A node as it stands now.</summary>
/// <param name="Content">Of its value when every entry is done; null while something is out of date, refused or waiting.</param>
/// <param name="Reason">Why it is not; empty when it is.</param>
/// <param name="Shown">Of the value that can be shown meanwhile: the one before the change, or what the entries that do run give; null when there is none.</param>
public sealed record NodeState(LedgerNode Node, UInt128? Content, IReadOnlyList<EntryState> Entries, string Reason, UInt128? Shown)
{
    /// <summary>All entries have run on what is there now.</summary>
    public bool UpToDate => Content is not null;

    /// <summary>Only time is missing: nothing is refused here, and nothing it stands on.</summary>
    public bool OutOfDate => Entries.Any(e => e.Standing == EntryStanding.OutOfDate) && !Refused;

    /// <summary>One of the entries cannot run.</summary>
    public bool Refused => Entries.Any(e => e.Standing == EntryStanding.Refused);

    /// <summary>Seconds to bring it up to date, by how long its entries took last.</summary>
    public double SecondsToRun => Entries.Where(e => e.Standing == EntryStanding.OutOfDate).Sum(e => e.Seconds);

    /// <summary>A part of what was said of the value as it is now: of the last entry that is on and tells of it; null where none does.</summary>
    public JsonNode? Latest(string part) =>
        Enumerable
            .Range(0, Entries.Count)
            .Reverse()
            .Where(i => Node.Entries[i].On)
            .Select(i => Entries[i].Report?.Report[part])
            .FirstOrDefault(said => said is not null);

    /// <summary>What the last entry of an operation that is on said; null when there is none, or it never ran.</summary>
    public EntryReport? Last(string operation)
    {
        for (var i = Entries.Count - 1; i >= 0; i--)
        {
            if (Node.Entries[i].On && Node.Entries[i].Operation == operation)
            {
                return Entries[i].Report;
            }
        }

        return null;
    }

    /// <summary>An entry of the operation is on.</summary>
    public bool Has(string operation) => Node.Entries.Any(e => e.On && e.Operation == operation);
}
