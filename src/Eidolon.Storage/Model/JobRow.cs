namespace Eidolon.Storage.Model;

/// <summary>Long work: what, on which take, how far.</summary>
public sealed class JobRow
{
    public int Id { get; set; }

    public required string Title { get; set; }

    public required string Kind { get; set; }

    public int? TakeId { get; set; }

    public int? SceneId { get; set; }

    /// <summary>The revision of the Ledger the person saw when they asked for it; null where that does not matter.</summary>
    public int? Seen { get; set; }

    /// <summary>Parameters as JSON.</summary>
    public string Parameters { get; set; } = "{}";

    public JobState State { get; set; }

    /// <summary>How often it was begun and neither ended nor was stopped with the studio: a job that takes the studio down is not begun for ever.</summary>
    public int Starts { get; set; }

    /// <summary>0 to 1.</summary>
    public double Progress { get; set; }

    public string Message { get; set; } = string.Empty;

    public DateTime CreatedUtc { get; set; }

    public DateTime? StartedUtc { get; set; }

    public DateTime? EndedUtc { get; set; }
}
