using System.Text.Json.Nodes;

namespace Eidolon.Core.Operations;

/// <summary>What an entry said when it ran: a line for the Ledger, and a report.</summary>
public record EntryReport(string Summary, JsonObject Report);

/// <summary>What an operation gave: the data, and what it says of them.</summary>
public sealed record OperationResult(TakeData Data, string Summary, JsonObject Report) : EntryReport(Summary, Report);
