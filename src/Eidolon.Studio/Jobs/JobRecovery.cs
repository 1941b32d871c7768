using Eidolon.Studio.Services;

namespace Eidolon.Studio.Jobs;

/// <summary>At the start: jobs that a crash left between their row and the scheduler are not forgotten.</summary>
public sealed class JobRecovery(IServiceScopeFactory scopes, Faults faults) : BackgroundService
{
    protected override Task ExecuteAsync(CancellationToken stoppingToken) =>
        faults.Until(
            "the jobs",
            async () =>
            {
                using var scope = scopes.CreateScope();
                await scope.ServiceProvider.GetRequiredService<JobQueue>().Recover(stoppingToken);
            },
            stoppingToken
        );
}
