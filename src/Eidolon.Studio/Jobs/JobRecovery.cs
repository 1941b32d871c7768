using Eidolon.Studio.Live;
using Eidolon.Studio.Services;

namespace Eidolon.Studio.Jobs;

/// <summary>At the start: what was to follow a change, and jobs that a crash left between their row and the scheduler, are not forgotten.</summary>
public sealed class JobRecovery(IServiceScopeFactory scopes, Faults faults) : BackgroundService
{
    protected override Task ExecuteAsync(CancellationToken stoppingToken) =>
        faults.Until(
            "the jobs",
            async () =>
            {
                using var scope = scopes.CreateScope();
                await scope.ServiceProvider.GetRequiredService<FollowUps>().CatchUp(stoppingToken);
                var jobs = scope.ServiceProvider.GetRequiredService<JobQueue>();
                await scope.ServiceProvider.GetRequiredService<RecordedDevices>().Recover(jobs, stoppingToken);
                await jobs.Recover(stoppingToken);
            },
            stoppingToken
        );
}
