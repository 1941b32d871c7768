using System.Text.Json.Nodes;

namespace Eidolon.Core.Operations;

/// <summary>One entry of a node: an operation's name, version and parameters.</summary>
public sealed record Entry(string Operation, int Version, JsonObject Parameters, bool On = true)
{
    /// <summary>Do two entries ask for the same?</summary>
    public bool Means(Entry other) =>
        (Operation, Version, On) == (other.Operation, other.Version, other.On)
        && CanonicalJson.Write(Parameters) == CanonicalJson.Write(other.Parameters);
}
