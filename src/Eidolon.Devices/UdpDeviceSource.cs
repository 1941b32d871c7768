using System.Net;
using System.Net.Sockets;
using Microsoft.Extensions.Logging;

namespace Eidolon.Devices;

/// <summary>A device that sends over UDP on loopback. Whatever arrives is checked; what is not the device's is counted and forgotten.</summary>
public sealed class UdpDeviceSource : IDeviceSource, IDisposable
{
    /// <summary>How long it listens before it looks whether it shall stop.</summary>
    private const int PatienceMilliseconds = 200;

    private readonly Socket _socket;
    private readonly int _sources;
    private readonly Func<ReadOnlyMemory<byte>, bool> _whole;
    private readonly ILogger _log;

    /// <param name="port">Wished for; any free one is taken when it is in use.</param>
    /// <param name="whole">Is the payload one of this device?</param>
    public UdpDeviceSource(
        string stream,
        string name,
        string detail,
        DeviceKind kind,
        int sources,
        double rate,
        int port,
        Func<ReadOnlyMemory<byte>, bool> whole,
        ILogger log
    )
    {
        (Stream, Name, Detail, Kind, _sources, Rate, _whole, _log) = (stream, name, detail, kind, sources, rate, whole, log);
        Meter = new DeviceMeter(rate);
        _socket = new Socket(AddressFamily.InterNetwork, SocketType.Dgram, ProtocolType.Udp) { ReceiveBufferSize = 4 << 20 };
        try
        {
            _socket.Bind(new IPEndPoint(IPAddress.Loopback, port));
        }
        catch (SocketException)
        {
            _socket.Bind(new IPEndPoint(IPAddress.Loopback, 0));
        }
    }

    public string Stream { get; }

    public string Name { get; }

    public string Detail { get; }

    public DeviceKind Kind { get; }

    public double Rate { get; }

    public IPEndPoint Address => (IPEndPoint)_socket.LocalEndPoint!;

    public string Arrives => Address.ToString();

    public DeviceMeter Meter { get; }

    public event Action<DeviceArrival>? Arrived;

    /// <remarks>A thread of its own: packets must not wait for a free thread of the pool.</remarks>
    public Task Run(CancellationToken cancel) =>
        Task.Factory.StartNew(() => Listen(cancel), CancellationToken.None, TaskCreationOptions.LongRunning, TaskScheduler.Default);

    private void Listen(CancellationToken cancel)
    {
        var buffer = new byte[64 * 1024];
        var from = new SocketAddress(AddressFamily.InterNetwork);
        _socket.ReceiveTimeout = PatienceMilliseconds;
        while (!cancel.IsCancellationRequested)
        {
            int size;
            try
            {
                size = _socket.ReceiveFrom(buffer, SocketFlags.None, from);
            }
            catch (SocketException e) when (e.SocketErrorCode == SocketError.TimedOut)
            {
                continue;
            }
            catch (ObjectDisposedException)
            {
                return;
            }
            catch (SocketException e)
            {
                if (cancel.IsCancellationRequested)
                {
                    return;
                }

                Meter.NoteBad(e.Message, StudioClock.Now);
                _log.LogWarning(e, "{Device}: the socket reported an error", Name);
                continue;
            }

            var at = StudioClock.Now;
            if (!DevicePacket.TryRead(buffer.AsSpan(0, size), out var packet, out _) || packet.Kind != Kind || packet.Source >= _sources)
            {
                Meter.NoteBad("a packet was not this device's", at);
                continue;
            }

            var payload = buffer.AsMemory(DevicePacket.Header, size - DevicePacket.Header);
            if (!_whole(payload))
            {
                Meter.NoteBad("a packet was not whole", at);
                continue;
            }

            if (Meter.Note(packet, at, new IPEndPoint(IPAddress.Loopback, 0).Create(from).ToString()!))
            {
                Tell(new DeviceArrival(packet, payload, at, Meter.Session));
            }
        }
    }

    /// <summary>A listener that fails costs its own packet: the device is heard all the same.</summary>
    private void Tell(DeviceArrival arrival)
    {
        try
        {
            Arrived?.Invoke(arrival);
        }
        catch (Exception e)
        {
            Meter.NoteBad("a packet could not be used; the log says more", arrival.At);
            _log.LogError(e, "{Device}: a packet could not be used", Name);
        }
    }

    public void Dispose() => _socket.Dispose();
}
