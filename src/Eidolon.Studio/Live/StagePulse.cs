using Eidolon.Studio.Services;
using Microsoft.AspNetCore.SignalR;

namespace Eidolon.Studio.Live;

/// <summary>Five times a second every open page hears how the stage is.</summary>
public sealed class StagePulse(StageStatus status, IHubContext<LiveHub> hub, RingPreparation preparation, LiveStage stage, Faults faults)
    : BackgroundService
{
    private const string Part = "the stage";
    private static readonly TimeSpan Every = TimeSpan.FromMilliseconds(200);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        await faults.Until(
            Part,
            () =>
            {
                preparation.Restore();
                stage.Track(stage.Performers, stage.Part);
                return Task.CompletedTask;
            },
            stoppingToken
        );
        await faults.Beat(Part, Every, () => hub.Clients.All.SendAsync("status", status.Now(), stoppingToken), stoppingToken);
    }
}
