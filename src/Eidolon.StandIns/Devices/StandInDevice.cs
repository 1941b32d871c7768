namespace Eidolon.StandIns.Devices;

/// <summary>A simulated device: says what it would send at each tick of its own rate.</summary>
public abstract class StandInDevice
{
    private readonly Lock _faults = new();
    private readonly HashSet<string> _active = [];

    public abstract DeviceKind Kind { get; }

    /// <summary>Ticks a second.</summary>
    public abstract double Rate { get; }

    /// <summary>Packets a tick, one a source.</summary>
    public virtual int Sources => 1;

    /// <summary>How far the device's clock is ahead of the studio's, seconds.</summary>
    public virtual double ClockAhead => 0;

    /// <summary>Percent after so many seconds, null on mains.</summary>
    public virtual byte? Battery(double seconds) => null;

    /// <summary>Says which moment of the scene it is; devices of one stage share it.</summary>
    public SceneClock Scenes { get; init; } = new();

    /// <summary>Writes one source's payload; −1 when it sends nothing.</summary>
    /// <param name="time">The moment that is seen, seconds since the epoch.</param>
    public abstract int Payload(int source, double time, Span<byte> payload);

    /// <summary>Makes something go wrong from now on.</summary>
    public void Break(string fault)
    {
        lock (_faults)
        {
            _active.Add(fault);
        }

        OnFault(fault);
    }

    /// <summary>Everything works again.</summary>
    public void Mend()
    {
        lock (_faults)
        {
            _active.Clear();
        }

        OnMend();
    }

    public bool Broken(string fault)
    {
        lock (_faults)
        {
            return _active.Contains(fault);
        }
    }

    protected virtual void OnFault(string fault) { }

    protected virtual void OnMend() { }
}
