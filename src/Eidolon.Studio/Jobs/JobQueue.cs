using System.Text.Json.Nodes;
using Eidolon.Core.Operations;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Quartz;

namespace Eidolon.Studio.Jobs;

/// <summary>Puts long work in the queue.</summary>
public sealed class JobQueue(EidolonDb db, ISchedulerFactory schedulers)
{
    public async Task<JobRow> Start(
        int takeId,
        string takeName,
        string operation,
        JsonObject parameters,
        CancellationToken cancel = default
    )
    {
        var known = OperationRegistry.Find(operation);
        var row = new JobRow
        {
            Title = $"{known.Title}, {takeName}",
            Kind = operation,
            TakeId = takeId,
            Parameters = parameters.ToJsonString(),
            CreatedUtc = DateTime.UtcNow,
        };
        return await Add(row, cancel);
    }

    /// <summary>Puts a Recipe in the queue for one take.</summary>
    public Task<JobRow> StartRecipe(int takeId, string takeName, RecipeRow recipe, CancellationToken cancel = default) =>
        Add(
            new JobRow
            {
                Title = $"{recipe.Name}, {takeName}",
                Kind = Services.RecipeService.JobKind,
                TakeId = takeId,
                Parameters = new JsonObject { ["recipe"] = recipe.Id }.ToJsonString(),
                CreatedUtc = DateTime.UtcNow,
            },
            cancel
        );

    /// <summary>Puts another Ledger for a take in the queue.</summary>
    public Task<JobRow> StartLedger(int takeId, string title, IReadOnlyList<Entry> entries, CancellationToken cancel = default) =>
        Add(
            new JobRow
            {
                Title = title,
                Kind = Services.LedgerService.JobKind,
                TakeId = takeId,
                Parameters = EntryList.Write(entries),
                CreatedUtc = DateTime.UtcNow,
            },
            cancel
        );

    private async Task<JobRow> Add(JobRow row, CancellationToken cancel)
    {
        db.Jobs.Add(row);
        await db.SaveChangesAsync(cancel);
        var scheduler = await schedulers.GetScheduler(cancel);
        var job = JobBuilder
            .Create<JobRunner>()
            .WithIdentity($"job-{row.Id}")
            .UsingJobData("id", row.Id.ToString())
            .RequestRecovery()
            .Build();
        await scheduler.ScheduleJob(job, TriggerBuilder.Create().StartNow().Build(), cancellationToken: cancel);
        return row;
    }
}
