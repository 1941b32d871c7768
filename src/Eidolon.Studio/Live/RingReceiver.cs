using System.Net;
using System.Net.Sockets;
using System.Numerics;
using Eidolon.StandIns.Devices;

namespace Eidolon.Studio.Live;

/// <summary>Receives the camera ring over UDP, counts what is lost or broken, and hands every good frame on.</summary>
public sealed class RingReceiver : BackgroundService
{
    private readonly UdpClient _socket = new(new IPEndPoint(IPAddress.Loopback, 0));
    private readonly ILogger<RingReceiver> _log;
    private uint? _last;
    private int _second;
    private long _secondStart = Environment.TickCount64;

    public RingReceiver(ILogger<RingReceiver> log)
    {
        _log = log;
        _socket.Client.ReceiveBufferSize = 1 << 20;
    }

    public IPEndPoint Address => (IPEndPoint)_socket.Client.LocalEndPoint!;

    /// <summary>Frames in the last whole second.</summary>
    public double Rate { get; private set; }

    public long Received { get; private set; }

    /// <summary>Frames that never arrived.</summary>
    public long Dropped { get; private set; }

    /// <summary>Packets that were not ours or not whole.</summary>
    public long Bad { get; private set; }

    public long LastTick { get; private set; }

    public bool Connected => Environment.TickCount64 - LastTick < 1000;

    /// <summary>Called for each frame in order, with how many were lost before it.</summary>
    public event Action<Vector3[], int>? Frame;

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        var slots = new Vector3[RingPacket.Slots];
        while (!stoppingToken.IsCancellationRequested)
        {
            UdpReceiveResult packet;
            try
            {
                packet = await _socket.ReceiveAsync(stoppingToken);
            }
            catch (SocketException e)
            {
                _log.LogWarning(e, "The ring's socket reported an error");
                continue;
            }

            if (!RingPacket.TryRead(packet.Buffer, out var frame, slots))
            {
                Bad++;
                continue;
            }

            var ahead = _last is { } last ? unchecked((int)(frame - last)) : 1;
            if (ahead <= 0 && ahead > -2000)
            {
                // A replay or a late packet: its frame has been dealt with.
                Bad++;
                continue;
            }

            // A large jump is a restarted sender, not a loss.
            var lost = ahead is > 1 and < 600 ? ahead - 1 : 0;
            _last = frame;
            Dropped += lost;
            Received++;
            Count();
            Frame?.Invoke([.. slots], lost);
        }
    }

    private void Count()
    {
        LastTick = Environment.TickCount64;
        _second++;
        if (LastTick - _secondStart >= 1000)
        {
            Rate = _second * 1000.0 / (LastTick - _secondStart);
            (_second, _secondStart) = (0, LastTick);
        }
    }

    public override void Dispose()
    {
        _socket.Dispose();
        base.Dispose();
    }
}
