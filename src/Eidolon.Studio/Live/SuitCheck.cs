using System.Runtime.InteropServices;
using Eidolon.Studio.Live.Devices;

namespace Eidolon.Studio.Live;

/// <summary>Preparing the suit: the room's field, sensors laid still, T-pose and A-pose held; each with good, or again and why.</summary>
public sealed class SuitCheck
{
    /// <summary>Length of a hold, seconds.</summary>
    public const double HoldSeconds = 2;

    private const int TraceLength = 120;
    private const double Wobble = 2.5;
    private readonly Lock _lock = new();
    private readonly UdpDeviceSource _device;
    private readonly LiveStage _stage;
    private readonly Queue<double> _trace = new();
    private readonly List<(float X, float Z, double Field)> _spots = [];
    private readonly double[] _fastest = new double[SuitSensors.Bones.Count];
    private readonly Dictionary<string, (bool Good, string Value, string Reason)> _done = [];
    private (string What, double Until)? _hold;
    private double _sum;
    private int _count;

    public SuitCheck(DeviceRack rack, LiveStage stage)
    {
        (_device, _stage) = (rack.Find("suit")!, stage);
        _device.Arrived += OnPacket;
    }

    /// <summary>Field strength over the last 12 seconds, µT, ten a second.</summary>
    public IReadOnlyList<double> Trace
    {
        get
        {
            lock (_lock)
            {
                return [.. _trace];
            }
        }
    }

    /// <summary>Places on the floor where the field was not the Earth's, metres and µT.</summary>
    public IReadOnlyList<(float X, float Z, double Field)> Spots
    {
        get
        {
            lock (_lock)
            {
                return [.. _spots];
            }
        }
    }

    /// <summary>Watches for two seconds whether all sensors are still: "still", "T-pose" or "A-pose".</summary>
    public void Hold(string what)
    {
        lock (_lock)
        {
            _hold = (what, StudioClock.Now + HoldSeconds);
            Array.Clear(_fastest);
        }
    }

    public IEnumerable<Check> Checks()
    {
        lock (_lock)
        {
            if (!_device.Meter.Connected)
            {
                return [];
            }

            Finish();
            var mean = _trace.Count == 0 ? 0 : _trace.Average();
            var spread = _trace.Count == 0 ? 0 : Math.Sqrt(_trace.Average(t => (t - mean) * (t - mean)));
            var earth = SuitSensors.UsualField;
            var steady = spread < Wobble && Math.Abs(mean - earth) < 4;
            var list = new List<Check>
            {
                new(
                    "field",
                    "Field strength",
                    _trace.Count < 20 ? "wait"
                        : steady ? "good"
                        : "again",
                    $"{mean:0} µT",
                    steady || _trace.Count < 20
                        ? string.Empty
                        : $"The field swings by {spread:0.0} µT (the Earth's is {earth:0} µT): steel is near. Keep away from the marked spots."
                ),
            };
            foreach (var what in new[] { "still", "T-pose", "A-pose" })
            {
                var name = what == "still" ? "Sensors still" : $"{what} held";
                list.Add(
                    _hold?.What == what
                        ? new($"suit-{what}", name, "wait", $"{Math.Max(0, _hold.Value.Until - StudioClock.Now):0.0} s", "Hold still.")
                    : _done.TryGetValue(what, out var d) ? new($"suit-{what}", name, d.Good ? "good" : "again", d.Value, d.Reason)
                    : new($"suit-{what}", name, "wait", "not yet", string.Empty)
                );
            }

            return list;
        }
    }

    private void Finish()
    {
        if (_hold is not { } hold || StudioClock.Now < hold.Until)
        {
            return;
        }

        _hold = null;
        var worst = Array.IndexOf(_fastest, _fastest.Max());
        var limit = hold.What == "still" ? 3 : 12;
        var good = _fastest[worst] < limit;
        _done[hold.What] = (
            good,
            $"{_fastest[worst]:0.0} °/s",
            good ? string.Empty : $"Again: {SuitSensors.Bones[worst]} turned at {_fastest[worst]:0} °/s; less than {limit} °/s is still."
        );
    }

    private void OnPacket(DeviceArrival arrival)
    {
        var values = MemoryMarshal.Cast<byte, float>(arrival.Payload.Span);
        lock (_lock)
        {
            // The pelvis' magnetometer walks through the room with the performer.
            var field = Math.Sqrt((values[6] * values[6]) + (values[7] * values[7]) + (values[8] * values[8]));
            (_sum, _count) = (_sum + field, _count + 1);
            if (_count == 10)
            {
                Keep(_sum / 10);
                (_sum, _count) = (0, 0);
            }

            if (_hold is not null)
            {
                for (var s = 0; s < _fastest.Length; s++)
                {
                    var at = s * SuitSensors.Values;
                    var spin =
                        Math.Sqrt((values[at] * values[at]) + (values[at + 1] * values[at + 1]) + (values[at + 2] * values[at + 2]))
                        * 180
                        / Math.PI;
                    _fastest[s] = Math.Max(_fastest[s], spin);
                }
            }
        }
    }

    private void Keep(double field)
    {
        _trace.Enqueue(field);
        if (_trace.Count > TraceLength)
        {
            _trace.Dequeue();
        }

        var place = _stage.Hips;
        if (
            Math.Abs(field - SuitSensors.UsualField) > 3
            && place is { } p
            && _spots.TrueForAll(s => Math.Abs(s.X - p.X) + Math.Abs(s.Z - p.Z) > 0.3f)
            && _spots.Count < 200
        )
        {
            _spots.Add((p.X, p.Z, Math.Round(field, 1)));
        }
    }
}
