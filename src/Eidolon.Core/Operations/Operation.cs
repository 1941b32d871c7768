using System.Text.Json.Nodes;

namespace Eidolon.Core.Operations;

/// <summary>A pure function with a name: data and parameters in, data and a report out.</summary>
/// <param name="Step">The Step it belongs to: Label, Clean, Solve, Retarget, Assemble, Polish.</param>
public sealed record Operation(
    string Name,
    int Version,
    string Step,
    string Title,
    Func<TakeData, JsonObject, OperationContext, OperationResult> Run
)
{
    /// <summary>So quick that its result is run again rather than stored, and that it does not wait in the job queue.</summary>
    public bool Light { get; init; }

    public Entry Entry(JsonObject? parameters = null) => new(Name, Version, parameters ?? []);
}
