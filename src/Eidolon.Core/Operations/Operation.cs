using System.Text.Json.Nodes;

namespace Eidolon.Core.Operations;

/// <summary>A pure function with a name: what a node holds, parameters and declared resources in, a new value and a report out.</summary>
/// <param name="Name">As it stands in Ledgers.</param>
/// <param name="Version">Counted on whenever the same input could give another result.</param>
/// <param name="Node">Where its entries belong, wherever the work stands.</param>
/// <param name="Step">The Step it belongs to: Label, Clean, Solve, Retarget, Assemble, Polish.</param>
/// <param name="Title">For people.</param>
public sealed record Operation(
    string Name,
    int Version,
    NodeKind Node,
    string Step,
    string Title,
    Func<OperationInput, JsonObject, OperationContext, OperationResult> Run
)
{
    /// <summary>What it reads besides the node's inputs, by its parameters; it gets nothing else.</summary>
    public Func<NodeScope, JsonObject, IEnumerable<ResourceKey>> Reads { get; init; } = (_, _) => [];

    /// <summary>So quick that its result is run again rather than stored, and that it does not wait in the job queue.</summary>
    public bool Quick { get; init; }

    /// <summary>Neighbours of the same group may trade places; null when its entries must stay where they are.</summary>
    public string? OrderGroup { get; init; }

    /// <summary>A set-up of its node: there is at most one entry of it, and a second one takes the place of the first.</summary>
    public bool SetUp { get; init; }

    /// <summary>There is at most one entry of it, and a second one takes the place of the first; unlike a set-up it stands on what is before it.</summary>
    public bool Once { get; init; }

    /// <summary>Of all operations with the same word a node has one entry at most: another one takes its place. Null for those that stand for themselves.</summary>
    public string? OneOf { get; init; }

    /// <summary>
    /// It works on what the node stands on: a recording that the node holds before any entry is nothing to it, so that one that comes later leaves its
    /// result as it is.
    /// </summary>
    public bool RootAside { get; init; }

    /// <summary>Entries before it that say nothing to it, by their operations: with those alone before it, its result is as without them.</summary>
    public IReadOnlyList<string> Ignores { get; init; } = [];

    /// <summary>An entry of that operation is where an entry of this one would be.</summary>
    public bool TakesPlaceOf(string operation) =>
        operation == Name || (OneOf is { } word && OperationRegistry.TryFind(operation, out var other) && other.OneOf == word);

    /// <summary>Several are usually made one after the other: what stands on them waits until it is asked for.</summary>
    public bool Gathers { get; init; }

    /// <summary>Set-ups that it goes before where its node has them: it says something of the recording that they work on.</summary>
    public IReadOnlyList<string> AheadOf { get; init; } = [];

    /// <summary>May an entry with these parameters be part of a Recipe? What speaks of one take's own dots and frames may not.</summary>
    public Func<JsonObject, bool> FitsRecipe { get; init; } = p => p["marker"] is null && p["frame"] is null;

    /// <summary>An entry of the present version.</summary>
    public Entry Entry(JsonObject? parameters = null) => new(Name, Version, parameters ?? []);
}
