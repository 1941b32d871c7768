using System.Text.Json.Nodes;

namespace Eidolon.Core.Operations;

/// <summary>What an entry said when it ran: a line for the Ledger, and a report.</summary>
public record EntryReport(string Summary, JsonObject Report);

/// <summary>What an operation gave: the value, and what it says of it.</summary>
public sealed record OperationResult(NodeValue Value, string Summary, JsonObject Report) : EntryReport(Summary, Report);
