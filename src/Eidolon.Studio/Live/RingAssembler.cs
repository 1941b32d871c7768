using Eidolon.Studio.Live.Devices;

namespace Eidolon.Studio.Live;

/// <summary>
/// Puts the packets of the cameras together to frames: a frame is done when all cameras that are there have sent it, or when two newer ones
/// have begun.
/// </summary>
public sealed class RingAssembler
{
    private const int Patience = 2;

    private readonly SortedDictionary<uint, RingFrame> _open = [];
    private readonly double[] _lastSeen = new double[256];
    private readonly StageSettings _stage;
    private readonly float[] _u = new float[RingPayload.MostCentroids];
    private readonly float[] _v = new float[RingPayload.MostCentroids];
    private uint? _done;
    private int _session;

    public RingAssembler(DeviceRack rack, StageSettings stage)
    {
        _stage = stage;
        Array.Fill(_lastSeen, double.NegativeInfinity);
        rack.Ring.Arrived += Add;
    }

    /// <summary>Frames in order, on the ring's thread.</summary>
    public event Action<RingFrame>? Frame;

    /// <summary>One camera's packet.</summary>
    public void Add(DeviceArrival arrival)
    {
        var (number, camera) = (arrival.Packet.Sequence, arrival.Packet.Source);
        if (arrival.Session != _session)
        {
            // The ring began anew, and its count with it.
            _open.Clear();
            (_session, _done) = (arrival.Session, null);
        }

        _lastSeen[camera] = arrival.At;
        if (_done is { } done && unchecked((int)(number - done)) <= 0)
        {
            return;
        }

        if (!_open.TryGetValue(number, out var frame))
        {
            _open[number] = frame = new RingFrame(number, arrival.Packet.Clock, arrival.At, new (float[], float[])?[_stage.Ring.Cameras]);
        }

        if (camera >= frame.Pictures.Length)
        {
            return;
        }

        var n = RingPayload.Read(arrival.Payload.Span, _u, _v);
        frame.Pictures[camera] = (_u[..n], _v[..n]);
        _open[number] = frame with { At = arrival.At };
        Emit(arrival.At);
    }

    private void Emit(double now)
    {
        while (_open.Count > 0)
        {
            var (number, frame) = _open.First();
            var whole = true;
            for (var c = 0; c < frame.Pictures.Length && whole; c++)
            {
                whole = frame.Pictures[c] is not null || now - _lastSeen[c] > 0.5;
            }

            if (!whole && unchecked((int)(_open.Keys.Last() - number)) < Patience)
            {
                return;
            }

            _open.Remove(number);
            _done = number;
            Frame?.Invoke(frame);
        }
    }
}
