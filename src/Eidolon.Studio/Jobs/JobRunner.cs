using System.Collections.Concurrent;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Operations;
using Eidolon.Core.Solving;
using Eidolon.Storage;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Microsoft.EntityFrameworkCore;
using Quartz;

namespace Eidolon.Studio.Jobs;

/// <summary>Runs one job row; Quartz starts it, and starts it again after a crash. What a job keeps it keeps in the transaction that ends it.</summary>
[DisallowConcurrentExecution]
public sealed class JobRunner(IServiceScopeFactory scopes, JobCancels cancels, JobsInHand hand, TimeProvider time, ILogger<JobRunner> log)
    : IJob
{
    /// <summary>One Ledger works on one job at a time; the others wait their turn.</summary>
    private static readonly ConcurrentDictionary<string, SemaphoreSlim> Turns = new();

    public async ValueTask Execute(IJobExecutionContext context, CancellationToken cancellationToken)
    {
        var id = int.Parse(context.MergedJobDataMap.GetString("id")!);
        using var held = hand.Begin();
        if (hand.Stopping.IsCancellationRequested)
        {
            return;
        }

        using var scope = scopes.CreateScope();
        var factory = scope.ServiceProvider.GetRequiredService<IDbContextFactory<EidolonDb>>();
        if (Read(factory, id) is not { State: JobState.Waiting or JobState.Running } job)
        {
            return;
        }

        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancellationToken, hand.Stopping, cancels.For(id));
        var turn = Turns.GetOrAdd(Owner(job).Key, _ => new SemaphoreSlim(1, 1));
        var mine = false;
        try
        {
            await turn.WaitAsync(stop.Token);
            mine = true;
            Set(factory, id, JobState.Running, string.Empty, started: true);
            await Run(scope.ServiceProvider, factory, job, cancels.Progress(id), stop.Token);
        }
        catch (OperationCanceledException) when (!cancellationToken.IsCancellationRequested && !hand.Stopping.IsCancellationRequested)
        {
            Set(factory, id, JobState.Stopped, "Stopped. Nothing was changed.");
        }
        catch (Exception e) when (LedgerRunner.IsReason(e))
        {
            Set(factory, id, JobState.Failed, e.Message);
        }
        catch (Exception e) when (e is not OperationCanceledException && !hand.Stopping.IsCancellationRequested)
        {
            log.LogError(e, "Job {Job} failed", id);
            Set(factory, id, JobState.Failed, "An unexpected fault; nothing was changed. The log says more.");
        }
        finally
        {
            if (mine)
            {
                turn.Release();
            }
        }

        cancels.Forget(id);
    }

    private static JobRow? Read(IDbContextFactory<EidolonDb> factory, int id)
    {
        using var db = factory.CreateDbContext();
        return db.Jobs.AsNoTracking().FirstOrDefault(j => j.Id == id);
    }

    /// <summary>A job that is done stays done, whatever comes after.</summary>
    private void Set(IDbContextFactory<EidolonDb> factory, int id, JobState state, string message, bool started = false)
    {
        using var db = factory.CreateDbContext();
        var now = time.GetUtcNow().UtcDateTime;
        db.Jobs.Where(j => j.Id == id && j.State != JobState.Done)
            .ExecuteUpdate(s =>
                s.SetProperty(j => j.State, state)
                    .SetProperty(j => j.Message, message)
                    .SetProperty(j => j.StartedUtc, j => started ? now : j.StartedUtc)
                    .SetProperty(j => j.EndedUtc, j => started ? null : now)
            );
    }

    private static LedgerOwner Owner(JobRow job) => new(job.SceneId is null ? job.TakeId : null, job.SceneId);

    private async Task Run(
        IServiceProvider services,
        IDbContextFactory<EidolonDb> factory,
        JobRow job,
        IProgress<double> progress,
        CancellationToken cancel
    )
    {
        var book = services.GetRequiredService<LedgerBook>();
        var followUps = services.GetRequiredService<FollowUps>();
        switch (job.Kind)
        {
            case JobKinds.Change or JobKinds.Recipe:
                var before = Findings(factory, job);
                book.Keep(Owner(job), LedgerChange.FromJson(job.Parameters), job.Seen, job.Id, progress, cancel);
                await followUps.After(Owner(job), cancel);
                if (job.Kind == JobKinds.Recipe)
                {
                    Tell(factory, job, before);
                }

                break;
            case JobKinds.BringUp:
                book.BringUp(Owner(job), job.Id, progress, cancel);
                await followUps.After(Owner(job), cancel, again: false);
                break;
            case JobKinds.Measure:
                var version = await Measure(services, job, progress, cancel);
                Set(
                    factory,
                    job.Id,
                    JobState.Done,
                    $"Version {version.Number}: {version.Height:0.00} m, fits to {version.FitMillimetres:0.0} mm"
                );
                followUps.LibraryChanged(version.SubjectId);
                break;
            case JobKinds.Bind:
                var bound = await Bind(services, job, progress, cancel);
                Set(factory, job.Id, JobState.Done, $"Version {bound.Number}: {bound.Why}");
                followUps.LibraryChanged(bound.SubjectId);
                break;
            case JobKinds.Bake:
                var baked = await services
                    .GetRequiredService<ClipShelf>()
                    .Bake(job.SceneId!.Value, JsonSerializer.Deserialize<BakeRequest>(job.Parameters)!, cancel);
                Set(factory, job.Id, JobState.Done, baked);
                break;
            default:
                throw new RefusedException($"there is no job '{job.Kind}'");
        }
    }

    private static async Task<SubjectVersion> Measure(
        IServiceProvider services,
        JobRow job,
        IProgress<double> progress,
        CancellationToken cancel
    )
    {
        var performer = (int?)JsonNode.Parse(job.Parameters)?["performer"] ?? 0;
        var open = services.GetRequiredService<TakeService>().Open(job.TakeId!.Value);
        var part = open.Take.Parts.Find(p => p.SubjectId == performer)
            ?? throw new RefusedException("this performer is not on the slate of the take");
        var own = CarriedMarkers.Own(part.Prefix.Length == 0 ? null : part.Prefix, open.Marked);
        return await services
            .GetRequiredService<SubjectLibrary>()
            .Measure(performer, own, open.Resources.MarkerSet(), open.Take.Id, progress, cancel);
    }

    private static Task<SubjectVersion> Bind(IServiceProvider services, JobRow job, IProgress<double> progress, CancellationToken cancel)
    {
        var said = JsonNode.Parse(job.Parameters)!;
        return services
            .GetRequiredService<SubjectLibrary>()
            .Rebind(
                (int)said["character"]!,
                PlacedSkeletonJson.Read(Encoding.UTF8.GetBytes((string)said["placed"]!), "placed"),
                progress,
                cancel
            );
    }

    private static (int MustFix, int Look) Findings(IDbContextFactory<EidolonDb> factory, JobRow job)
    {
        using var db = factory.CreateDbContext();
        var t = db.Takes.AsNoTracking().Where(t => t.Id == job.TakeId).Select(t => new { t.MustFix, t.Look }).FirstOrDefault();
        return (t?.MustFix ?? 0, t?.Look ?? 0);
    }

    /// <summary>A Recipe says what it changed in the Findings.</summary>
    private static void Tell(IDbContextFactory<EidolonDb> factory, JobRow job, (int MustFix, int Look) before)
    {
        var after = Findings(factory, job);
        var words = $". Must fix {before.MustFix} → {after.MustFix}, look {before.Look} → {after.Look}";
        using var db = factory.CreateDbContext();
        db.Jobs.Where(j => j.Id == job.Id).ExecuteUpdate(s => s.SetProperty(j => j.Message, j => j.Message + words));
    }
}
