namespace Eidolon.Devices;

/// <summary>Counts what a device sends: rate, loss, bad packets, replays, latency, clock.</summary>
/// <param name="rate">Packets a second and source when all is well.</param>
public sealed class DeviceMeter(double rate)
{
    private const int Slots = 100;
    private const double SlotSeconds = 0.2;

    private readonly Lock _lock = new();
    private readonly DeviceGate _gate = new(rate);
    private readonly int[] _history = new int[Slots];
    private readonly bool[] _lossy = new bool[Slots];
    private readonly long[] _sent = new long[byte.MaxValue + 1];
    private long _slot = -1;
    private double _lastAt = double.NegativeInfinity;
    private double _least = double.PositiveInfinity;
    private double _leastNow = double.PositiveInfinity;
    private double _leastSince;
    private double _latency;
    private byte? _battery;
    private string _from = string.Empty;
    private string _error = string.Empty;
    private long _received;
    private long _lost;
    private long _bad;

    /// <summary>Good packets so far.</summary>
    public long Received => Interlocked.Read(ref _received);

    /// <summary>Packets that never came.</summary>
    public long Lost => Interlocked.Read(ref _lost);

    /// <summary>Packets that were not the device's, not whole, or came again.</summary>
    public long Bad => Interlocked.Read(ref _bad);

    public bool Connected => StudioClock.Now - Volatile.Read(ref _lastAt) < 1;

    /// <summary>Device clock minus studio clock, seconds; the shortest way seen is taken as no delay.</summary>
    public double Offset
    {
        get
        {
            lock (_lock)
            {
                return double.IsFinite(_least) ? -_least : 0;
            }
        }
    }

    /// <summary>How often the device has begun; a new start has a new count and a new clock.</summary>
    public int Session
    {
        get
        {
            lock (_lock)
            {
                return _gate.Session;
            }
        }
    }

    /// <summary>Notes a packet. False for one that is left out: of another sender, seen already, far too late, or after a jump.</summary>
    public bool Note(DevicePacket packet, double at, string from)
    {
        lock (_lock)
        {
            Turn(at);
            var session = _gate.Session;
            if (_gate.Judge(packet, at, from, out var lost) is { Length: > 0 } why)
            {
                BadPacket(why);
                return false;
            }

            if (session != _gate.Session)
            {
                (_least, _leastNow, _leastSince, _latency) = (double.PositiveInfinity, double.PositiveInfinity, at, 0);
            }

            if (lost > 0)
            {
                _lost += lost;
                _lossy[_slot % Slots] = true;
            }

            _received++;
            _history[_slot % Slots]++;
            _sent[packet.Source] = _slot;
            (_battery, _from, _lastAt) = (packet.Battery, from, at);
            Time(at - packet.Clock, at);
            return true;
        }
    }

    public void NoteBad(string why, double at)
    {
        lock (_lock)
        {
            Turn(at);
            BadPacket(why);
        }
    }

    public DeviceStatus Status(IDeviceSource device)
    {
        lock (_lock)
        {
            Turn(StudioClock.Now);
            var connected = Connected;
            // The last whole second, without the slot that is still filling.
            var seen = Enumerable.Range(1, 5).Sum(i => _history[(int)((_slot - i + (Slots * 2)) % Slots)]);
            // Of each source that sends: a rack allows for more cameras than there are.
            var sources = Math.Max(1, _sent.Count(s => s > 0 && s >= _slot - 5));
            var history = Enumerable
                .Range(1, Slots)
                .Select(i => (int)((_slot + i) % Slots))
                .Select(s => _lossy[s] ? -Math.Max(1, _history[s]) : _history[s])
                .ToArray();
            return new DeviceStatus(
                device.Stream,
                device.Name,
                device.Detail,
                device.Arrives,
                _from,
                connected,
                connected ? seen / (double)sources : 0,
                _lost,
                _bad,
                connected ? Math.Max(0, _latency) * 1000 : 0,
                _battery,
                connected ? -_least * 1000 : 0,
                _error,
                history
            );
        }
    }

    private void BadPacket(string why)
    {
        _bad++;
        _error = why;
    }

    /// <summary>The shortest way of the last ten seconds stands for no delay; what is longer is latency.</summary>
    private void Time(double way, double at)
    {
        if (at - _leastSince > 10)
        {
            (_least, _leastNow, _leastSince) = (_leastNow, way, at);
        }

        _leastNow = Math.Min(_leastNow, way);
        _least = Math.Min(_least, way);
        _latency += ((way - _least) - _latency) * 0.02;
    }

    private void Turn(double now)
    {
        var slot = (long)(now / SlotSeconds);
        if (_slot < 0)
        {
            _slot = slot;
        }

        for (var s = Math.Max(_slot + 1, slot - Slots); s <= slot; s++)
        {
            (_history[s % Slots], _lossy[s % Slots]) = (0, false);
        }

        _slot = Math.Max(_slot, slot);
    }
}
