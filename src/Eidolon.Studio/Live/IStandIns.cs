namespace Eidolon.Studio.Live;

/// <summary>Stand-in devices, where the studio was started with them; a studio of one's own has none.</summary>
public interface IStandIns
{
    /// <summary>Scenes they can perform; empty where there are no stand-ins.</summary>
    IReadOnlyList<string> Scenes { get; }

    /// <summary>Streams of the devices that run.</summary>
    IReadOnlyList<string> Running { get; }

    /// <summary>Who usually performs a scene.</summary>
    string DefaultPerformer(string scene);

    /// <summary>Performs a scene from now on, on every device that runs; cheap when it already does.</summary>
    Task Perform(string scene, string performer);

    /// <summary>Waves the wand before the ring.</summary>
    Task WaveWand();

    /// <summary>Lays the ground frame on the floor.</summary>
    Task LayGround();

    /// <summary>All devices begin the scene anew, together.</summary>
    void BeginScene();

    /// <summary>Starts one that had been off.</summary>
    void Start(string stream);

    void Stop(string stream);

    /// <summary>Pulls the cable of a device, or puts it in again.</summary>
    void Cut(string stream, bool cut);

    void Break(string stream, string fault);

    void Mend(string stream);
}

/// <summary>No stand-ins: devices are what they are.</summary>
public sealed class NoStandIns : IStandIns
{
    public IReadOnlyList<string> Scenes => [];

    public IReadOnlyList<string> Running => [];

    public string DefaultPerformer(string scene) => string.Empty;

    public Task Perform(string scene, string performer) => Task.CompletedTask;

    public Task WaveWand() => Task.CompletedTask;

    public Task LayGround() => Task.CompletedTask;

    public void BeginScene() { }

    public void Start(string stream) { }

    public void Stop(string stream) { }

    public void Cut(string stream, bool cut) { }

    public void Break(string stream, string fault) { }

    public void Mend(string stream) { }
}
