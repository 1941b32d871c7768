using Microsoft.AspNetCore.SignalR;

namespace Eidolon.Studio.Live;

/// <summary>Five times a second every open page hears how the stage is.</summary>
public sealed class StagePulse(
    StageStatus status,
    IHubContext<LiveHub> hub,
    RingPreparation preparation,
    LiveStage stage,
    ILogger<StagePulse> log
) : BackgroundService
{
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        preparation.Restore();
        stage.Track([], BodyPart.Whole);
        using var timer = new PeriodicTimer(TimeSpan.FromMilliseconds(200));
        try
        {
            while (await timer.WaitForNextTickAsync(stoppingToken))
            {
                await hub.Clients.All.SendAsync("status", status.Now(), stoppingToken);
            }
        }
        catch (OperationCanceledException)
        {
            log.LogDebug("The pulse ends");
        }
    }
}
