using System.Text.Json.Nodes;
using Eidolon.Core.Operations;

namespace Eidolon.Core.Ledgers;

/// <summary>What is known of one run of an operation on one input.</summary>
/// <param name="Content">Hash of the value it gave; 0 when it was refused.</param>
/// <param name="Seconds">How long it took.</param>
/// <param name="Refusal">Why it could not run; null when it could.</param>
public sealed record ResultNote(UInt128 Content, EntryReport Report, double Seconds, string? Refusal = null)
{
    /// <summary>An entry that could not run, with the reason.</summary>
    public static ResultNote Refused(string reason) => new(0, new EntryReport(string.Empty, new JsonObject()), 0, reason);
}

/// <summary>Notes by key, values by content. Values may be forgotten at any time, and are then made again.</summary>
public interface IResultStore
{
    /// <summary>What is known under a key; null when nothing is.</summary>
    ResultNote? Find(UInt128 key);

    /// <summary>A value with this content is at hand; nothing of it is read.</summary>
    bool Has(UInt128 content);

    /// <summary>A value by its content; null when it is not kept any more.</summary>
    NodeValue? Value(UInt128 content);

    /// <param name="value">Null when the operation was refused.</param>
    /// <param name="quick">It is quicker to run again than to store.</param>
    void Keep(UInt128 key, ResultNote note, NodeValue? value, bool quick);

    /// <summary>Works a result out, or waits for whoever is working on the same key at this moment and takes theirs.</summary>
    ResultNote Once(UInt128 key, Func<ResultNote> work, CancellationToken cancel);

    /// <summary>Keeps a value in memory only, such as the raw samples.</summary>
    void Remember(UInt128 content, NodeValue value);
}
