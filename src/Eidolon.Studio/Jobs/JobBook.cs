using Eidolon.Storage;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Jobs;

/// <summary>Jobs as pages show them: the open one of a take or scene, one by its id with how far it is, and Stop.</summary>
public sealed class JobBook(EidolonDb db, JobCancels cancels)
{
    /// <summary>The newest open job of a take or scene; null when nothing runs.</summary>
    public Task<JobRow?> OpenOf(LedgerOwner owner, CancellationToken cancel) =>
        OpenJobs.Of(db.Jobs.AsNoTracking(), owner).FirstOrDefaultAsync(cancel);

    public Task<JobRow?> Find(int id, CancellationToken cancel) => db.Jobs.AsNoTracking().FirstOrDefaultAsync(j => j.Id == id, cancel);

    /// <summary>How far it is, 0 to 1: as it says itself while it runs.</summary>
    public double ProgressOf(JobRow job) => job.State == JobState.Done ? 1 : Math.Max(job.Progress, cancels.ProgressOf(job.Id));

    /// <summary>Stops a job: at once where it has not begun.</summary>
    public void Stop(int id)
    {
        cancels.Stop(id);
        db.Jobs.Where(j => j.Id == id && j.State == JobState.Waiting)
            .ExecuteUpdate(s => s.SetProperty(j => j.State, JobState.Stopped).SetProperty(j => j.Message, "Stopped. Nothing was changed."));
    }
}
