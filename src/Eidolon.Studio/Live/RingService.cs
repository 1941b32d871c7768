using Eidolon.StandIns.Devices;
using Eidolon.StandIns.People;

namespace Eidolon.Studio.Live;

/// <summary>Keeps the stand-in ring performing.</summary>
public sealed class RingService(RingReceiver receiver, ILogger<RingService> log) : BackgroundService
{
    private RingSender? _sender;

    public RingSender Sender => _sender ??= new RingSender(receiver.Address);

    public string Performer { get; private set; } = string.Empty;

    /// <summary>Performs a scene from now on; cheap when it already does.</summary>
    public void Perform(string scene, string performer, int take)
    {
        if (Sender.Scene != scene || Performer != performer)
        {
            Performer = performer;
            Sender.Perform(scene, HarbourCast.Find(performer), take);
        }
    }

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        try
        {
            await Sender.Run(stoppingToken);
        }
        catch (OperationCanceledException)
        {
            log.LogInformation("The stand-in ring stops");
        }
    }
}
