namespace Eidolon.Storage.Model;

/// <summary>Where a job is.</summary>
public enum JobState
{
    Waiting,
    Running,
    Done,
    Stopped,
    Failed,
}
