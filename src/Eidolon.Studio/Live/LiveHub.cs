using Microsoft.AspNetCore.SignalR;

namespace Eidolon.Studio.Live;

/// <summary>Pushes live frames and how the stage is; takes the commands of the Record pages.</summary>
public sealed class LiveHub(
    Recorder recorder,
    StageStatus status,
    IStandIns standIns,
    LiveStage stage,
    RingPreparation ring,
    SuitCheck suit,
    LiveAudience audience,
    ILogger<LiveHub> log
) : Hub
{
    public override Task OnConnectedAsync()
    {
        audience.Enter(Context.ConnectionId);
        return base.OnConnectedAsync();
    }

    public override Task OnDisconnectedAsync(Exception? exception)
    {
        audience.Leave(Context.ConnectionId);
        return base.OnDisconnectedAsync(exception);
    }

    /// <summary>The page has drawn a frame and can take another.</summary>
    public void Seen() => audience.Seen(Context.ConnectionId);

    public Task<RecorderStatus> Status() => Task.FromResult(status.Now());

    public Task<string> Record(RecordRequest request) => Say(async () => await recorder.Start(request));

    public Task<int> Stop() => recorder.Stop();

    /// <summary>The stand-ins play a scene.</summary>
    public Task<string> Perform(string scene, string performer) => Say(() => standIns.Perform(scene, performer));

    /// <summary>Follows performers (by id) and how much of them.</summary>
    public Task<string> Track(int[] performers, BodyPart part) => Say(() => Task.Run(() => stage.Track(performers, part)));

    /// <summary>A performer drives a character from now on; 0 for nobody.</summary>
    public Task<string> Play(int performer, int character) => Say(() => Task.Run(() => stage.Play(performer, character)));

    public void Smoothing(double milliseconds) => stage.SmoothingMilliseconds = Math.Clamp(milliseconds, 0, 500);

    public Task<string> StandIn(string stream, bool on) =>
        Say(() =>
            Task.Run(() =>
            {
                if (on)
                {
                    standIns.Start(stream);
                }
                else
                {
                    standIns.Stop(stream);
                }
            })
        );

    public void Cut(string stream, bool cut) => standIns.Cut(stream, cut);

    public Task<string> Break(string stream, string fault) => Say(() => Task.Run(() => standIns.Break(stream, fault)));

    public Task Mend(string stream) => Task.Run(() => standIns.Mend(stream));

    /// <summary>The stand-in's wand is waved and the wave gathered.</summary>
    public Task<string> BeginWave() =>
        Say(async () =>
        {
            await standIns.WaveWand();
            ring.BeginWave();
        });

    public void EndWave() => ring.EndWave();

    public void StopPreparation() => ring.Stop();

    public Task<string> SetGround() =>
        Say(async () =>
        {
            await standIns.LayGround();
            await Task.Delay(300);
            ring.SetGround();
        });

    public void Hold(string what) => suit.Hold(what);

    /// <summary>An empty text when all went well, else what is to be said to the person.</summary>
    private async Task<string> Say(Func<Task> work)
    {
        try
        {
            await work();
            return string.Empty;
        }
        catch (Exception e) when (e is ArgumentException or Core.RefusedException)
        {
            log.LogInformation("Refused: {Reason}", e.Message);
            return e.Message;
        }
    }
}
