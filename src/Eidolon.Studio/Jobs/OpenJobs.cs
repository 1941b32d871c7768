using System.Linq.Expressions;
using Eidolon.Storage.Model;

namespace Eidolon.Studio.Jobs;

/// <summary>Jobs that are not over yet.</summary>
public static class OpenJobs
{
    /// <summary>Waiting or at work.</summary>
    public static readonly Expression<Func<JobRow, bool>> AreOpen = j => j.State == JobState.Waiting || j.State == JobState.Running;

    /// <summary>
    /// Those of a take or scene, the newest first. Asked before the take or scene is opened, a job that ends between the two is followed all
    /// the same.
    /// </summary>
    public static IQueryable<JobRow> Of(IQueryable<JobRow> jobs, LedgerOwner owner) =>
        jobs.Where(AreOpen).Where(j => j.TakeId == owner.TakeId && j.SceneId == owner.SceneId).OrderByDescending(j => j.Id);
}
