using System.Diagnostics;
using System.Net;
using System.Net.Sockets;

namespace Eidolon.StandIns.Devices;

/// <summary>Sends what a stand-in device says over UDP, at its rate, with loss, jitter and faults on request.</summary>
public sealed class StandInSender(StandInDevice device, IPEndPoint target, StandInSender.Settings settings)
{
    /// <summary>How bad the network is.</summary>
    /// <param name="LossPercent">Share of packets that never leave.</param>
    /// <param name="JitterMilliseconds">Longest random delay of a tick.</param>
    public sealed record Settings(
        double LossPercent = 0,
        double JitterMilliseconds = 0,
        IReadOnlyList<StandInFault>? Faults = null,
        int Seed = 1
    );

    private const int RestMilliseconds = 50;
    private const double FarBehindSeconds = 1;
    private long _sent;
    private long _withheld;

    public StandInDevice Device => device;

    /// <summary>Where the packets leave, once it runs.</summary>
    public IPEndPoint? Local { get; private set; }

    public IPEndPoint Target => target;

    /// <summary>Packets sent since the start.</summary>
    public long Sent => Interlocked.Read(ref _sent);

    /// <summary>Packets that were made and lost on purpose.</summary>
    public long Withheld => Interlocked.Read(ref _withheld);

    /// <summary>Sends nothing while true: a cable pulled.</summary>
    public bool Cut { get; set; }

    /// <summary>Makes and sends nothing while true, and costs nothing: nobody looks.</summary>
    public bool Resting { get; set; }

    public async Task Run(CancellationToken cancel)
    {
        using var socket = new UdpClient(new IPEndPoint(IPAddress.Loopback, 0));
        Local = (IPEndPoint)socket.Client.LocalEndPoint!;
        var random = new Random(settings.Seed);
        // Devices keep the time of day, each a little wrong, and begin on a beat of the scene.
        var clock = Stopwatch.StartNew();
        var start = (DateTime.UtcNow - DateTime.UnixEpoch).TotalSeconds;
        var begin = Math.Ceiling(start / SceneClock.Beat) * SceneClock.Beat;
        var lead = begin - start;
        var buffer = new byte[DevicePacket.Largest];
        var faults = (settings.Faults ?? []).OrderBy(f => f.AtSeconds).ToList();
        for (long tick = 0; !cancel.IsCancellationRequested; tick++)
        {
            while (Resting)
            {
                await Task.Delay(RestMilliseconds, cancel);
                tick = Math.Max(tick, (long)((clock.Elapsed.TotalSeconds - lead) * device.Rate));
            }

            var now = tick / device.Rate;
            while (faults.Count > 0 && faults[0].AtSeconds <= now)
            {
                device.Break(faults[0].Name);
                faults.RemoveAt(0);
            }

            var wait = now + lead - clock.Elapsed.TotalSeconds;
            if (wait < -FarBehindSeconds)
            {
                // It fell far behind (a sleeping machine): it goes on from now instead of sending everything at once.
                tick = (long)((clock.Elapsed.TotalSeconds - lead) * device.Rate);
                continue;
            }

            if (wait > 0.001)
            {
                await Task.Delay(TimeSpan.FromSeconds(wait), cancel);
            }

            if (settings.JitterMilliseconds > 0)
            {
                await Task.Delay(TimeSpan.FromMilliseconds(random.NextDouble() * settings.JitterMilliseconds), cancel);
            }

            for (var s = 0; s < device.Sources; s++)
            {
                await Send(socket, buffer, s, tick, now, begin, random, cancel);
            }
        }
    }

    private async Task Send(
        UdpClient socket,
        byte[] buffer,
        int source,
        long tick,
        double now,
        double begin,
        Random random,
        CancellationToken cancel
    )
    {
        var payload = device.Payload(source, begin + now, buffer.AsSpan(DevicePacket.Header));
        if (payload < 0)
        {
            return;
        }

        if (
            Cut
            || device.Broken("battery-empty")
            || (device.Broken("network-loss") && random.NextDouble() < 0.6)
            || random.NextDouble() * 100 < settings.LossPercent
        )
        {
            Interlocked.Increment(ref _withheld);
            return;
        }

        var size = new DevicePacket(device.Kind, (byte)source, device.Battery(now), (uint)tick, begin + now + device.ClockAhead).Write(
            buffer,
            payload
        );
        await socket.SendAsync(buffer.AsMemory(0, size), target, cancel);
        Interlocked.Increment(ref _sent);
    }
}
