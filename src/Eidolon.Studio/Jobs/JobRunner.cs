using System.Collections.Concurrent;
using System.Text.Json.Nodes;
using Eidolon.Core.Operations;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Microsoft.EntityFrameworkCore;
using Quartz;

namespace Eidolon.Studio.Jobs;

/// <summary>Runs one job row; Quartz starts it, and starts it again after a crash.</summary>
[DisallowConcurrentExecution]
public sealed class JobRunner(IServiceScopeFactory scopes, JobCancels cancels, ILogger<JobRunner> log) : IJob
{
    public async ValueTask Execute(IJobExecutionContext context, CancellationToken cancellationToken)
    {
        var id = int.Parse(context.MergedJobDataMap.GetString("id")!);
        using var scope = scopes.CreateScope();
        var factory = scope.ServiceProvider.GetRequiredService<IDbContextFactory<EidolonDb>>();
        await using var db = await factory.CreateDbContextAsync(cancellationToken);
        var job = await db.Jobs.FirstOrDefaultAsync(j => j.Id == id, cancellationToken);
        if (job is null || job.State is JobState.Done or JobState.Stopped or JobState.Failed)
        {
            return;
        }

        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancellationToken, cancels.For(id));
        job.State = JobState.Running;
        job.StartedUtc = DateTime.UtcNow;
        await db.SaveChangesAsync(cancellationToken);
        try
        {
            var summary = await Run(scope.ServiceProvider, job, cancels.Progress(id), stop.Token);
            (job.State, job.Message, job.Progress) = (JobState.Done, summary, 1);
        }
        catch (OperationCanceledException) when (!cancellationToken.IsCancellationRequested)
        {
            (job.State, job.Message) = (JobState.Stopped, "Stopped. Nothing was changed.");
        }
        catch (Exception e) when (e is ArgumentException or DamagedDataException or KeyNotFoundException)
        {
            (job.State, job.Message) = (JobState.Failed, e.Message);
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            log.LogError(e, "Job {Job} failed", id);
            (job.State, job.Message) = (JobState.Failed, "An unexpected fault; nothing was changed. The log says more.");
        }

        job.EndedUtc = DateTime.UtcNow;
        await db.SaveChangesAsync(CancellationToken.None);
        cancels.Forget(id);
    }

    private static async Task<string> Run(IServiceProvider services, JobRow job, IProgress<double> progress, CancellationToken cancel)
    {
        var take = job.TakeId!.Value;
        return job.Kind switch
        {
            RecipeService.JobKind => await services
                .GetRequiredService<RecipeService>()
                .Run(take, (int)JsonNode.Parse(job.Parameters)!["recipe"]!, progress, cancel),
            LedgerService.JobKind => await services
                .GetRequiredService<TakeService>()
                .Replace(take, EntryList.Read(job.Parameters), progress, cancel),
            _ => (
                await services
                    .GetRequiredService<TakeService>()
                    .Keep(take, OperationRegistry.Find(job.Kind).Entry(JsonNode.Parse(job.Parameters) as JsonObject), progress, cancel)
            ).Summary,
        };
    }
}
