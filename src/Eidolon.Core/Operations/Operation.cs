using System.Text.Json.Nodes;

namespace Eidolon.Core.Operations;

/// <summary>A pure function with a name: data and parameters in, data and a report out.</summary>
/// <param name="Step">The Step it belongs to: Label, Clean, Solve, Retarget, Assemble, Polish.</param>
public sealed record Operation(string Name, int Version, string Step, string Title, Func<TakeData, JsonObject, OperationContext, OperationResult> Run)
{
    public Entry Entry(JsonObject? parameters = null) => new(Name, Version, parameters ?? []);
}
