using Eidolon.Core;
using Eidolon.StandIns.Devices;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.Studio.Live;
using Eidolon.Studio.Live.Devices;
using Eidolon.Studio.Services;

namespace Eidolon.Demo;

/// <summary>Runs the stand-in devices inside the studio: each sends to the rack over its socket as a real one would.</summary>
public sealed class StandInStage(DeviceRack rack, StageSettings stage, LiveAudience audience, Faults faults, ILogger<StandInStage> log)
    : BackgroundService,
        IStandIns
{
    /// <summary>How long the devices go on for nobody.</summary>
    public TimeSpan Linger { get; set; } = TimeSpan.FromSeconds(30);

    private readonly Lock _lock = new();
    private double _wantedAt = StudioClock.Now;
    private readonly Dictionary<string, (StandInSender Sender, CancellationTokenSource Stop)> _running = [];
    private readonly SemaphoreSlim _performing = new(1, 1);
    private readonly SceneClock _scenes = new();
    private (string Scene, string Performer) _wanted = (string.Empty, string.Empty);
    private CancellationToken _end;

    public IReadOnlyList<string> Scenes => [.. SceneCatalog.Names];

    public string DefaultPerformer(string scene) =>
        SceneCatalog.Names.Contains(scene) ? SceneCatalog.DefaultPerformer(scene) : string.Empty;

    public Task WaveWand() => Perform(RingStandIn.WandScene, HarbourCast.Ines.Name);

    public Task LayGround() => Perform(RingStandIn.GroundScene, HarbourCast.Ines.Name);

    private RingStandIn Ring => field ??= new RingStandIn(rate: stage.Rate) { Scenes = _scenes };

    public string Scene => _wanted.Scene;

    public string Performer => _wanted.Performer;

    /// <summary>What goes wrong now, device by device.</summary>
    public IReadOnlyList<string> Running
    {
        get
        {
            lock (_lock)
            {
                return [.. _running.Keys];
            }
        }
    }

    /// <summary>Performs a scene from now on, on every device that runs; cheap when it already does.</summary>
    public async Task Perform(string scene, string performer)
    {
        Wake();
        await _performing.WaitAsync(_end);
        try
        {
            if (_wanted == (scene, performer))
            {
                return;
            }

            var person = HarbourCast.Find(performer);
            await Task.Run(() => Ring.Perform(scene, person, 1), _end);
            _wanted = (scene, performer);
            StartDevice("ring");
            if (scene is RingStandIn.WandScene or RingStandIn.GroundScene)
            {
                BeginScene();
                return;
            }

            foreach (var stream in new[] { "suit", "witness-1", "witness-2" })
            {
                StartDevice(stream);
            }

            foreach (var device in Devices())
            {
                await Task.Run(() => Play(device), _end);
            }

            BeginScene();
        }
        finally
        {
            _performing.Release();
        }
    }

    /// <summary>All devices begin the scene anew, together.</summary>
    public void BeginScene() => _scenes.Begin(StudioClock.Now);

    /// <summary>Starts one stand-in; nothing happens when it runs.</summary>
    private void StartDevice(string stream)
    {
        var target = rack.Find(stream) ?? throw new RefusedException($"there is no device '{stream}'");
        lock (_lock)
        {
            if (_running.ContainsKey(stream))
            {
                return;
            }

            StandInDevice device = stream switch
            {
                "ring" => Ring,
                "suit" => new SuitStandIn { Scenes = _scenes },
                "face" => new FaceStandIn { Scenes = _scenes },
                _ => new WitnessStandIn(stream[^1] - '1') { Scenes = _scenes },
            };
            var stop = CancellationTokenSource.CreateLinkedTokenSource(_end);
            var sender = new StandInSender(device, target.Address, new StandInSender.Settings());
            _running[stream] = (sender, stop);
            _ = Task.Run(() => Send(sender, stop.Token), stop.Token);
        }
    }

    /// <summary>Starts a stand-in that had been off and lets it play what the others play.</summary>
    public void Start(string stream)
    {
        Wake();
        StartDevice(stream);
        lock (_lock)
        {
            Play(_running[stream].Sender.Device);
        }
    }

    public void Stop(string stream)
    {
        lock (_lock)
        {
            if (_running.Remove(stream, out var running))
            {
                running.Stop.Cancel();
            }
        }
    }

    /// <summary>Pulls the cable of a device, or puts it in again.</summary>
    public void Cut(string stream, bool cut)
    {
        lock (_lock)
        {
            if (_running.TryGetValue(stream, out var running))
            {
                running.Sender.Cut = cut;
            }
        }
    }

    public void Break(string stream, string fault)
    {
        if (!StandInFault.Names.Contains(fault))
        {
            throw new RefusedException($"there is no fault '{fault}'");
        }

        Find(stream)?.Break(fault);
    }

    public void Mend(string stream) => Find(stream)?.Mend();

    protected override Task ExecuteAsync(CancellationToken stoppingToken)
    {
        _end = stoppingToken;
        return faults.Beat(
            "the stand-ins",
            TimeSpan.FromMilliseconds(200),
            () =>
            {
                if (audience.Wanted)
                {
                    Wake();
                }
                else if (StudioClock.Now - _wantedAt > Linger.TotalSeconds)
                {
                    Rest(true);
                }

                return Task.CompletedTask;
            },
            stoppingToken
        );
    }

    private void Wake()
    {
        _wantedAt = StudioClock.Now;
        Rest(false);
    }

    private void Rest(bool resting)
    {
        lock (_lock)
        {
            foreach (var (sender, _) in _running.Values)
            {
                sender.Resting = resting;
            }
        }
    }

    private StandInDevice? Find(string stream)
    {
        lock (_lock)
        {
            return _running.TryGetValue(stream, out var running) ? running.Sender.Device : null;
        }
    }

    private StandInDevice[] Devices()
    {
        lock (_lock)
        {
            return [.. _running.Values.Select(r => r.Sender.Device)];
        }
    }

    private void Play(StandInDevice device)
    {
        if (_wanted.Scene.Length == 0 || _wanted.Scene is RingStandIn.WandScene or RingStandIn.GroundScene)
        {
            return;
        }

        var person = HarbourCast.Find(_wanted.Performer);
        (device as SuitStandIn)?.Perform(_wanted.Scene, person, 1);
        (device as WitnessStandIn)?.Perform(_wanted.Scene, person, 1);
    }

    private async Task Send(StandInSender sender, CancellationToken cancel)
    {
        try
        {
            await sender.Run(cancel);
        }
        catch (OperationCanceledException) when (cancel.IsCancellationRequested)
        {
            log.LogInformation("Stand-in {Kind} stops after {Sent} packets", sender.Device.Kind, sender.Sent);
        }
    }
}
