using Eidolon.Storage.Library;

namespace Eidolon.Studio.Services;

/// <summary>Once an hour: what has been put aside for thirty days goes for good.</summary>
public sealed class AsideSweep(Aside aside, Faults faults) : BackgroundService
{
    protected override Task ExecuteAsync(CancellationToken stoppingToken) =>
        faults.Beat("what was put aside", TimeSpan.FromHours(1), () => aside.Sweep(stoppingToken), stoppingToken);
}
