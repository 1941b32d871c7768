namespace Eidolon.Studio.Jobs;

/// <summary>At the start: jobs that a crash left between their row and the scheduler are not forgotten.</summary>
public sealed class JobRecovery(JobQueue queue) : BackgroundService
{
    protected override Task ExecuteAsync(CancellationToken stoppingToken) => queue.Recover(stoppingToken);
}
