using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Operations;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Microsoft.EntityFrameworkCore;
using Quartz;

namespace Eidolon.Studio.Jobs;

/// <summary>
/// Puts long work in the queue. The same work asked for again while it waits or runs is one job. A Ledger works on one job at a time: only the first
/// of its line is given to the engine, the others wait here and hold none of its places.
/// </summary>
public sealed class JobQueue(IDbContextFactory<EidolonDb> factory, ISchedulerFactory schedulers, TimeProvider time)
{
    private static readonly SemaphoreSlim Gate = new(1, 1);

    /// <summary>A change of a take's or scene's Ledger.</summary>
    /// <param name="seen">The revision the person saw.</param>
    public Task<JobRow> Change(
        LedgerOwner owner,
        string title,
        LedgerChange change,
        int? seen = null,
        string kind = JobKinds.Change,
        CancellationToken cancel = default
    ) => Add(Row(owner, title, kind, change.ToJson(), seen), cancel);

    /// <summary>An operation as a new entry.</summary>
    public Task<JobRow> Operation(
        LedgerOwner owner,
        string name,
        string operation,
        JsonObject parameters,
        int? node,
        int? seen = null,
        CancellationToken cancel = default
    ) =>
        Change(owner, $"{OperationRegistry.TitleOf(operation)}, {name}", new AddEntries(operation, parameters, node), seen, cancel: cancel);

    /// <summary>Whatever is out of date of a Ledger.</summary>
    public Task<JobRow> BringUp(LedgerOwner owner, string name, CancellationToken cancel = default) =>
        Add(Row(owner, $"Bring up {name}", JobKinds.BringUp, "{}", null), cancel);

    /// <summary>A performer measured from a take.</summary>
    public Task<JobRow> Measure(int take, int performer, string title, CancellationToken cancel = default) =>
        Add(
            Row(LedgerOwner.Take(take), title, JobKinds.Measure, new JsonObject { ["performer"] = performer }.ToJsonString(), null),
            cancel
        );

    /// <summary>A character's mesh bound anew with joints put elsewhere.</summary>
    /// <param name="placed">Text as <see cref="PlacedSkeletonJson"/> reads it.</param>
    public Task<JobRow> Bind(int character, string name, string placed, CancellationToken cancel = default) =>
        Add(
            Row(
                default,
                $"Bind {name}",
                JobKinds.Bind,
                new JsonObject { ["character"] = character, ["placed"] = placed }.ToJsonString(),
                null
            ),
            cancel
        );

    /// <summary>A track, or a part of it, as a clip of the library.</summary>
    public Task<JobRow> Bake(int scene, BakeRequest request, CancellationToken cancel = default) =>
        Add(Row(LedgerOwner.Scene(scene), $"Bake {request.Name}", JobKinds.Bake, JsonSerializer.Serialize(request), null), cancel);

    /// <summary>Samples of what devices sent during a recording.</summary>
    public Task<JobRow> Unpack(int take, string name, CancellationToken cancel = default) =>
        Add(Row(LedgerOwner.Take(take), $"Samples of suit, films and face, {name}", JobKinds.Unpack, "{}", null), cancel);

    /// <summary>The first job of each line is given to the engine: after a start, whatever a stop has cut off.</summary>
    public async Task Recover(CancellationToken cancel)
    {
        await using var db = factory.CreateDbContext();
        var lines = await db
            .Jobs.AsNoTracking()
            .Where(OpenJobs.AreOpen)
            .Select(j => new { j.TakeId, j.SceneId })
            .Distinct()
            .ToListAsync(cancel);
        foreach (var line in lines)
        {
            await Next(new LedgerOwner(line.SceneId is null ? line.TakeId : null, line.SceneId), cancel);
        }
    }

    /// <summary>Gives the first open job of a line to the engine, if it has not got it yet.</summary>
    public async Task Next(LedgerOwner owner, CancellationToken cancel)
    {
        await using var db = factory.CreateDbContext();
        var first = await db
            .Jobs.AsNoTracking()
            .Where(OpenJobs.AreOpen)
            .Where(j => owner.SceneId == null ? j.SceneId == null && j.TakeId == owner.TakeId : j.SceneId == owner.SceneId)
            .OrderBy(j => j.Id)
            .Select(j => (int?)j.Id)
            .FirstOrDefaultAsync(cancel);
        if (first is { } id)
        {
            await Schedule(id, cancel);
        }
    }

    private JobRow Row(LedgerOwner owner, string title, string kind, string parameters, int? seen) =>
        new()
        {
            Title = title,
            Kind = kind,
            TakeId = owner.TakeId,
            SceneId = owner.SceneId,
            Parameters = parameters,
            Seen = seen,
            CreatedUtc = time.GetUtcNow().UtcDateTime,
        };

    private async Task<JobRow> Add(JobRow row, CancellationToken cancel)
    {
        await Gate.WaitAsync(cancel);
        try
        {
            await using var db = factory.CreateDbContext();
            var same = await db
                .Jobs.AsNoTracking()
                .Where(OpenJobs.AreOpen)
                .FirstOrDefaultAsync(
                    j => j.Kind == row.Kind && j.TakeId == row.TakeId && j.SceneId == row.SceneId && j.Parameters == row.Parameters,
                    cancel
                );
            if (same is not null)
            {
                return same;
            }

            db.Jobs.Add(row);
            await db.SaveChangesAsync(cancel);
        }
        finally
        {
            Gate.Release();
        }

        await Next(new LedgerOwner(row.SceneId is null ? row.TakeId : null, row.SceneId), cancel);
        return row;
    }

    /// <summary>Gives a job to the engine unless it has it: one at a time, as a line may be looked at by who adds to it and by the job that ends.</summary>
    private async Task Schedule(int id, CancellationToken cancel)
    {
        await Gate.WaitAsync(cancel);
        try
        {
            var scheduler = await schedulers.GetScheduler(cancel);
            var key = new JobKey($"job-{id}");
            if (await scheduler.GetJobDetail(key, cancel) is null)
            {
                var job = JobBuilder.Create<JobRunner>().WithIdentity(key).UsingJobData("id", id.ToString()).RequestRecovery().Build();
                await scheduler.ScheduleJob(job, TriggerBuilder.Create().StartNow().Build(), cancellationToken: cancel);
            }
        }
        finally
        {
            Gate.Release();
        }
    }
}
