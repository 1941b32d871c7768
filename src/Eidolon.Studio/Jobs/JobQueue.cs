using System.Text.Json.Nodes;
using Eidolon.Core.Operations;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Quartz;

namespace Eidolon.Studio.Jobs;

/// <summary>Puts long work in the queue.</summary>
public sealed class JobQueue(EidolonDb db, ISchedulerFactory schedulers)
{
    public async Task<JobRow> Start(int takeId, string takeName, string operation, JsonObject parameters, CancellationToken cancel = default)
    {
        var known = OperationRegistry.Find(operation);
        var row = new JobRow { Title = $"{known.Title}, {takeName}", Kind = operation, TakeId = takeId, Parameters = parameters.ToJsonString(), CreatedUtc = DateTime.UtcNow };
        db.Jobs.Add(row);
        await db.SaveChangesAsync(cancel);
        var scheduler = await schedulers.GetScheduler(cancel);
        var job = JobBuilder.Create<JobRunner>().WithIdentity($"job-{row.Id}").UsingJobData("id", row.Id.ToString()).RequestRecovery().Build();
        await scheduler.ScheduleJob(job, TriggerBuilder.Create().StartNow().Build(), cancellationToken: cancel);
        return row;
    }
}
