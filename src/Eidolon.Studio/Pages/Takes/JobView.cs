using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>A job as a fragment shows it.</summary>
public sealed record JobView(JobRow Row, double Progress)
{
    public int Percent => (int)Math.Round(Progress * 100);

    public bool Open => Row.State is JobState.Waiting or JobState.Running;

    /// <summary>Time left by the pace so far, or nothing yet.</summary>
    public string Left =>
        Row.StartedUtc is { } s && Progress > 0.05
            ? $"{Math.Max(1, (DateTime.UtcNow - s).TotalSeconds / Progress * (1 - Progress)):0} s left"
            : string.Empty;

    public static JobView Of(JobRow row, JobBook jobs) => new(row, jobs.ProgressOf(row));
}
