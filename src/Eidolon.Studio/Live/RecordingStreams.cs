using System.Buffers.Binary;
using System.Numerics;
using System.Runtime.InteropServices;
using Eidolon.Core.Markers;
using Eidolon.Storage;
using Eidolon.Studio.Live.Devices;

namespace Eidolon.Studio.Live;

/// <summary>
/// What has come in since the last write, by stream. The ring's clock gives every frame its place, so that lost frames leave a hole and
/// time stays true; other devices keep their own packets with the time on the take's clock.
/// </summary>
public sealed class RecordingStreams(double rate, IReadOnlyList<int> props)
{
    /// <summary>How far the ring's clock may run beside the studio's until it is another clock, seconds.</summary>
    private const double ClockTolerance = 1;

    private readonly List<(double Clock, (float[] U, float[] V)?[] Pictures)> _raw = [];
    private readonly Dictionary<int, LiveFrame> _points = [];
    private readonly Dictionary<string, (List<byte> Bytes, int Records, int First)> _others = [];
    private double? _start;
    private (double Clock, double At) _last;
    private int _written;

    /// <summary>Frames so far, holes included.</summary>
    public int Frames => _written + _raw.Count;

    public int Written => _written;

    /// <summary>Written frames that the cameras saw and for which no live points came in time: the live stage was behind.</summary>
    public int Missed { get; private set; }

    public int Pending => _raw.Count;

    public void Add(RingFrame frame)
    {
        Anchor(frame);
        for (var (hole, place) = (Frames, Place(frame.Clock)); hole < place; hole++)
        {
            _raw.Add((frame.Clock, new (float[], float[])?[frame.Pictures.Length]));
        }

        _raw.Add((frame.Clock, frame.Pictures));
    }

    public void Add(LiveFrame frame)
    {
        if (_start is not null && Place(frame.Clock) is var place && place >= _written && place <= Frames)
        {
            _points[place] = frame;
        }
    }

    /// <summary>
    /// A ring that was started anew has another clock: its frames go on where the studio's clock says. A hole is never longer than the time that
    /// has passed, whatever a device says.
    /// </summary>
    private void Anchor(RingFrame frame)
    {
        if (_start is null)
        {
            _start = frame.Clock;
        }
        else if (Math.Abs(frame.Clock - _last.Clock - (frame.At - _last.At)) > ClockTolerance)
        {
            var passed = Math.Max(0, frame.At - _last.At);
            _start = frame.Clock - ((Frames - 1) / rate) - passed;
        }

        _last = (frame.Clock, frame.At);
    }

    /// <param name="offset">Device clock minus studio clock, seconds.</param>
    /// <param name="ringOffset">The ring's, seconds.</param>
    public void Add(string stream, DeviceArrival arrival, double offset, double ringOffset)
    {
        if (_start is not { } start)
        {
            return;
        }

        var (bytes, records, first) = _others.TryGetValue(stream, out var s) ? s : ([], 0, 0);
        Span<byte> head = stackalloc byte[11];
        BinaryPrimitives.WriteDoubleLittleEndian(head, arrival.Packet.Clock - offset - (start - ringOffset));
        head[8] = arrival.Packet.Source;
        BinaryPrimitives.WriteUInt16LittleEndian(head[9..], (ushort)arrival.Payload.Length);
        bytes.AddRange(head);
        bytes.AddRange(arrival.Payload.Span);
        _others[stream] = (bytes, records + 1, first);
    }

    /// <summary>The next chunk of every stream: at most <paramref name="most"/> frames of the ring.</summary>
    public List<(string Stream, int First, int Count, byte[] Data)> Take(int most)
    {
        var parts = new List<(string, int, int, byte[])>();
        var n = Math.Min(most, _raw.Count);
        if (n > 0)
        {
            parts.Add((StreamNames.Ring, _written, n, Ring(n)));
            parts.Add((StreamNames.Markers, _written, n, Points(n)));
            parts.AddRange(props.Select(p => (StreamNames.Places(p), _written, n, Places(p, n))));
            for (var f = 0; f < n; f++)
            {
                if (!_points.Remove(_written + f) && _raw[f].Pictures.Any(p => p is not null))
                {
                    Missed++;
                }
            }

            _raw.RemoveRange(0, n);
            _written += n;
        }

        foreach (var (stream, (bytes, records, first)) in _others.ToArray())
        {
            if (records > 0)
            {
                parts.Add((stream, first, records, [.. bytes]));
                _others[stream] = ([], 0, first + records);
            }
        }

        return parts;
    }

    private int Place(double clock) => (int)Math.Clamp(Math.Round((clock - _start!.Value) * rate), -1, int.MaxValue);

    private byte[] Ring(int frames)
    {
        var bytes = new List<byte>(frames * 2048);
        for (var f = 0; f < frames; f++)
        {
            foreach (var picture in _raw[f].Pictures)
            {
                CentroidCodec.Write(bytes, picture?.U, picture?.V, picture is not null);
            }
        }

        return [.. bytes];
    }

    private byte[] Points(int frames)
    {
        var points = new Vector3[frames * LiveStage.Slots];
        Array.Fill(points, MarkerTake.Hidden);
        for (var f = 0; f < frames; f++)
        {
            if (_points.TryGetValue(_written + f, out var frame))
            {
                frame.Slots.CopyTo(points.AsSpan(f * LiveStage.Slots));
            }
        }

        return MemoryMarshal.AsBytes<Vector3>(points).ToArray();
    }

    /// <summary>Where the live stage saw a prop; NaN where it could not be trusted.</summary>
    private byte[] Places(int prop, int frames)
    {
        var values = new float[frames * SampleStore.PlaceFloats];
        for (var f = 0; f < frames; f++)
        {
            var pose = _points.TryGetValue(_written + f, out var frame)
                ? frame.Props.Where(p => p.Id == prop && p.Pose.Trusted).Select(p => (RigidPose?)p.Pose).FirstOrDefault()
                : null;
            var (at, turn) = pose is { } p ? (p.Position, p.Rotation) : (MarkerTake.Hidden, Quaternion.Identity);
            SampleStore.Place(at, turn, values.AsSpan(f * SampleStore.PlaceFloats));
        }

        return MemoryMarshal.AsBytes<float>(values).ToArray();
    }
}
