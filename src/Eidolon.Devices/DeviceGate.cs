namespace Eidolon.Devices;

/// <summary>
/// Who may speak as a device, and whether a packet can follow the ones before. The first sender is the device until it has been silent for a second;
/// its count and its clock may only go on as time does. A device that was started anew is believed again: at once after the silence or when its clock
/// went on, otherwise as soon as its packets follow each other for a while.
/// </summary>
/// <param name="rate">Packets a second and source when all is well.</param>
public sealed class DeviceGate(double rate)
{
    /// <summary>After so long without a good packet another sender, count or clock is believed, seconds.</summary>
    public const double Silence = 1;

    /// <summary>A source that was silent for longer than this paused: what it counted meanwhile was not on its way and is not lost, seconds.</summary>
    public const double Pause = 10;

    /// <summary>How far the device's clock may be from where it was expected, seconds.</summary>
    public const double ClockTolerance = 2;

    /// <summary>Packets in a row that must follow each other until a jump is believed to be a new start.</summary>
    public const int Agreement = 30;

    private readonly (uint Sequence, double Clock, double At)?[] _last = new (uint, double, double)?[256];
    private string _sender = string.Empty;
    private (double Clock, double At) _latest;
    private (uint Sequence, double Clock, double At, byte Source)? _doubtful;
    private int _agreed;

    /// <summary>Counts the device's starts; 0 before the first packet.</summary>
    public int Session { get; private set; }

    /// <summary>Judges a packet.</summary>
    /// <param name="packet">Its head.</param>
    /// <param name="at">When it came, studio clock, seconds.</param>
    /// <param name="from">Address of the sender.</param>
    /// <param name="lost">Packets of this source that are missing before it.</param>
    /// <returns>Empty when it is good, else why it is left out.</returns>
    public string Judge(in DevicePacket packet, double at, string from, out int lost)
    {
        lost = 0;
        var silent = Session == 0 || at - _latest.At > Silence;
        if (from != _sender && !silent)
        {
            return $"packets of another sender, {from}, are left out while {_sender} sends";
        }

        var follows = Follows(packet, at, out lost, out var why);
        if (from == _sender && follows)
        {
            Accept(packet, at);
            return string.Empty;
        }

        if (silent || (from == _sender && (Anew(packet, at) || Believed(packet, at))))
        {
            lost = 0;
            (Session, _sender) = (Session + 1, from);
            Array.Clear(_last);
            Accept(packet, at);
            return string.Empty;
        }

        return why;
    }

    private void Accept(in DevicePacket packet, double at)
    {
        _last[packet.Source] = (packet.Sequence, packet.Clock, at);
        _latest = (packet.Clock, at);
        (_doubtful, _agreed) = (null, 0);
    }

    /// <summary>Does a packet go on where this session is?</summary>
    private bool Follows(in DevicePacket packet, double at, out int lost, out string why)
    {
        lost = 0;
        why = "its clock jumped: packets are left out until it goes on steadily";
        var expected = _latest.Clock + at - _latest.At;
        if (!(Math.Abs(packet.Clock - expected) <= ClockTolerance))
        {
            return false;
        }

        if (_last[packet.Source] is not { } last)
        {
            return true;
        }

        var ahead = unchecked((int)(packet.Sequence - last.Sequence));
        if (ahead <= 0)
        {
            why = "a packet came twice or too late";
            return false;
        }

        why = "its count jumped: packets are left out until it goes on steadily";
        lost = at - last.At > Pause ? 0 : ahead - 1;
        return ahead <= (8 * rate * (at - last.At + ClockTolerance)) + 64;
    }

    /// <summary>A count that goes back while the clock goes on is a device that was started anew.</summary>
    private bool Anew(in DevicePacket packet, double at) =>
        Math.Abs(packet.Clock - (_latest.Clock + at - _latest.At)) <= ClockTolerance
        && _last[packet.Source] is { } last
        && unchecked((int)(packet.Sequence - last.Sequence)) <= 0
        && packet.Clock > last.Clock + (0.5 / rate);

    /// <summary>Jumps that go on steadily from each other are a device that was started anew.</summary>
    private bool Believed(in DevicePacket packet, double at)
    {
        if (_doubtful is { } before && before.Source != packet.Source && at - before.At < Silence / 2)
        {
            return false;
        }

        var steady =
            _doubtful is { } d
            && d.Source == packet.Source
            && unchecked((int)(packet.Sequence - d.Sequence)) is > 0 and < 64
            && Math.Abs(packet.Clock - d.Clock - (at - d.At)) < 0.25
            && packet.Clock > d.Clock;
        _agreed = steady ? _agreed + 1 : 1;
        _doubtful = (packet.Sequence, packet.Clock, at, packet.Source);
        return _agreed >= Agreement;
    }
}
