using System.Runtime.InteropServices;
using Eidolon.Studio.Live.Devices;

namespace Eidolon.Studio.Live;

/// <summary>Preparing the witness cameras: is the whole body in the frame, and was a T-pose seen?</summary>
public sealed class WitnessCheck
{
    private static readonly int[] Ends =
    [
        .. new[] { "Crown", "WristL", "WristR", "ToeL", "ToeR" }.Select(n => WitnessPoints.Names.ToList().IndexOf(n)),
    ];
    private readonly Lock _lock = new();
    private readonly UdpDeviceSource[] _devices;
    private readonly float[][] _latest;
    private readonly bool[] _posed;

    public WitnessCheck(DeviceRack rack)
    {
        _devices = [.. rack.Devices.Where(d => d.Stream.StartsWith("witness", StringComparison.Ordinal))];
        _latest = [.. _devices.Select(_ => Array.Empty<float>())];
        _posed = new bool[_devices.Length];
        for (var i = 0; i < _devices.Length; i++)
        {
            var k = i;
            _devices[i].Arrived += a => OnPacket(k, a);
        }
    }

    /// <summary>The newest points and strokes of a camera, or empty.</summary>
    public float[] Latest(int camera)
    {
        lock (_lock)
        {
            return camera >= 0 && camera < _latest.Length ? _latest[camera] : [];
        }
    }

    public IEnumerable<Check> Checks()
    {
        lock (_lock)
        {
            return [.. Enumerable.Range(0, _devices.Length).Where(i => _devices[i].Meter.Connected && _latest[i].Length > 0).Select(One)];
        }
    }

    private Check One(int i)
    {
        var out_ = Ends.Where(e => _latest[i][(e * 3) + 2] < 0.2f).Select(e => WitnessPoints.Names[e]).ToArray();
        var name = $"Witness {i + 1}";
        return out_.Length == 0
            ? new($"witness-{i + 1}", name, "good", _posed[i] ? "whole, T-pose" : "whole body", string.Empty)
            : new($"witness-{i + 1}", name, "again", $"{out_.Length} missing", $"Not in the picture or hidden: {string.Join(", ", out_)}.");
    }

    private void OnPacket(int camera, DeviceArrival arrival)
    {
        var values = MemoryMarshal.Cast<byte, float>(arrival.Payload.Span).ToArray();
        lock (_lock)
        {
            _latest[camera] = values;
            _posed[camera] |= TPose(values);
        }
    }

    /// <summary>Both arms level and straight in the picture.</summary>
    private static bool TPose(float[] v)
    {
        int At(string name) => WitnessPoints.Names.ToList().IndexOf(name) * 3;
        int wl = At("WristL"),
            wr = At("WristR"),
            sl = At("ShoulderL"),
            sr = At("ShoulderR");
        var span = Math.Abs(v[wl] - v[wr]);
        return v[wl + 2] > 0.5f
            && v[wr + 2] > 0.5f
            && span > 3 * Math.Abs(v[sl] - v[sr])
            && Math.Abs(v[wl + 1] - v[sl + 1]) < 0.12f * span
            && Math.Abs(v[wr + 1] - v[sr + 1]) < 0.12f * span;
    }
}
