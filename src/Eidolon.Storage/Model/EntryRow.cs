using System.Text.Json.Nodes;
using Eidolon.Core.Operations;

namespace Eidolon.Storage.Model;

/// <summary>An entry of a node.</summary>
public sealed class EntryRow
{
    public int Id { get; set; }

    public int NodeId { get; set; }

    /// <summary>0, 1, 2 … within the node.</summary>
    public int Position { get; set; }

    public required string Operation { get; set; }

    public int Version { get; set; }

    /// <summary>JSON.</summary>
    public required string Parameters { get; set; }

    public bool On { get; set; } = true;

    /// <summary>What it said when it ran last.</summary>
    public string Summary { get; set; } = string.Empty;

    /// <summary>Key of the result it had when it was kept last, 32 hexadecimal digits; empty when it never ran.</summary>
    public string Key { get; set; } = string.Empty;

    /// <summary>Entries are taken back in the order they were added in, whatever their node.</summary>
    public long Added { get; set; }

    /// <summary>What it said before it was changed (see EarlierEntries); empty for none.</summary>
    public string Earlier { get; set; } = string.Empty;

    public DateTime CreatedUtc { get; set; }

    public Entry ToEntry() => new(Operation, Version, JsonNode.Parse(Parameters) as JsonObject ?? [], On);
}
