namespace Eidolon.Storage.Model;

/// <summary>
/// What is to follow a change, kept in the transaction of the change itself: a stop between the two costs nothing, the next start does what is left.
/// </summary>
public sealed class OutboxRow
{
    /// <summary>What has changed: a take or scene (as a Ledger's owner says it), or a subject of the library.</summary>
    public required string Key { get; set; }

    public int? TakeId { get; set; }

    public int? SceneId { get; set; }

    public int? SubjectId { get; set; }

    /// <summary>Counted on by each change: what has followed one of them has not followed the next.</summary>
    public int Stamp { get; set; }
}
