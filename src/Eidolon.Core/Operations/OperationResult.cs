using System.Text.Json.Nodes;

namespace Eidolon.Core.Operations;

/// <summary>What an operation gave: the data, a line for the Ledger, and a report.</summary>
public sealed record OperationResult(TakeData Data, string Summary, JsonObject Report);
