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
using Eidolon.Studio.Live;
using Eidolon.Studio.Services;
using Microsoft.EntityFrameworkCore;
using Quartz;

namespace Eidolon.Studio.Jobs;

/// <summary>Runs one job row; Quartz starts it, and starts it again after a crash. What a job keeps it keeps in the transaction that ends it.</summary>
[DisallowConcurrentExecution]
public sealed class JobRunner(IServiceScopeFactory scopes, JobCancels cancels, JobsInHand hand, TimeProvider time, ILogger<JobRunner> log)
    : IJob
{
    /// <summary>A job that has taken the studio down so often is not begun again.</summary>
    private const int MostStarts = 2;

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
        try
        {
            if (job.Starts >= MostStarts)
            {
                throw new RefusedException(
                    "It was begun twice, and both times the studio ended before it did. It is not begun again: ask for less, or for a part of it"
                );
            }

            Begin(factory, id);
            await Run(scope.ServiceProvider, factory, job, cancels.Progress(id), stop.Token);
        }
        catch (OperationCanceledException) when (cancellationToken.IsCancellationRequested || hand.Stopping.IsCancellationRequested)
        {
            // Stopped with the studio, in good order: that was no fall.
            Starts(factory, id, -1);
        }
        catch (OperationCanceledException)
        {
            Set(factory, id, JobState.Stopped, "Stopped. Nothing was changed.");
        }
        catch (Exception e) when (LedgerRunner.IsReason(e))
        {
            Set(factory, id, JobState.Failed, e.Message);
        }
        catch (Exception e) when (hand.Stopping.IsCancellationRequested)
        {
            log.LogWarning(e, "Job {Job} was cut off by the stop", id);
            Starts(factory, id, -1);
        }
        catch (Exception e)
        {
            log.LogError(e, "Job {Job} failed", id);
            Set(factory, id, JobState.Failed, "An unexpected fault; nothing was changed. The log says more.");
        }
        finally
        {
            cancels.Forget(id);
        }

        if (hand.Stopping.IsCancellationRequested)
        {
            return;
        }

        await scope.ServiceProvider.GetRequiredService<JobQueue>().Next(Owner(job), CancellationToken.None);
    }

    private static JobRow? Read(IDbContextFactory<EidolonDb> factory, int id)
    {
        using var db = factory.CreateDbContext();
        return db.Jobs.AsNoTracking().FirstOrDefault(j => j.Id == id);
    }

    private void Begin(IDbContextFactory<EidolonDb> factory, int id)
    {
        using var db = factory.CreateDbContext();
        var now = time.GetUtcNow().UtcDateTime;
        db.Jobs.Where(j => j.Id == id && j.State != JobState.Done)
            .ExecuteUpdate(s =>
                s.SetProperty(j => j.State, JobState.Running)
                    .SetProperty(j => j.Message, string.Empty)
                    .SetProperty(j => j.Starts, j => j.Starts + 1)
                    .SetProperty(j => j.StartedUtc, now)
                    .SetProperty(j => j.EndedUtc, (DateTime?)null)
            );
    }

    private static void Starts(IDbContextFactory<EidolonDb> factory, int id, int by)
    {
        using var db = factory.CreateDbContext();
        db.Jobs.Where(j => j.Id == id).ExecuteUpdate(s => s.SetProperty(j => j.Starts, j => j.Starts + by));
    }

    /// <summary>A job that is done stays done, whatever comes after.</summary>
    private void Set(IDbContextFactory<EidolonDb> factory, int id, JobState state, string message)
    {
        using var db = factory.CreateDbContext();
        var now = time.GetUtcNow().UtcDateTime;
        db.Jobs.Where(j => j.Id == id && j.State != JobState.Done)
            .ExecuteUpdate(s => s.SetProperty(j => j.State, state).SetProperty(j => j.Message, message).SetProperty(j => j.EndedUtc, now));
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
                followUps.LibraryChanged((await Measure(services, job, progress, cancel)).SubjectId);
                break;
            case JobKinds.Bind:
                followUps.LibraryChanged((await Bind(services, job, progress, cancel)).SubjectId);
                break;
            case JobKinds.Bake:
                await services
                    .GetRequiredService<ClipShelf>()
                    .Bake(job.SceneId!.Value, JsonSerializer.Deserialize<BakeRequest>(job.Parameters)!, job.Id, progress, cancel);
                break;
            case JobKinds.Unpack:
                await services.GetRequiredService<RecordedDevices>().Unpack(job.TakeId!.Value, job.Id, cancel);
                await followUps.After(Owner(job), cancel);
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
            .Measure(
                performer,
                own,
                open.Resources.MarkerSet(),
                open.Take.Id,
                progress,
                cancel,
                new JobEnd(job.Id, v => $"Version {v.Number}: {v.Height:0.00} m, fits to {v.FitMillimetres:0.0} mm")
            );
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
                cancel,
                new JobEnd(job.Id, v => $"Version {v.Number}: {v.Why}")
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
