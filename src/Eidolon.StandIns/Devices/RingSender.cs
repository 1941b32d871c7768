using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using Eidolon.Core.Markers;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.StandIns.Devices;

/// <summary>The stand-in camera ring: performs a scene again and again and sends what it sees over UDP on loopback.</summary>
public sealed class RingSender(IPEndPoint target)
{
    private readonly Lock _lock = new();
    private MarkerTake? _take;
    private int _at;

    /// <summary>Packets sent since the start.</summary>
    public long Sent { get; private set; }

    /// <summary>The scene being performed, e.g. lamp-walk.</summary>
    public string Scene { get; private set; } = string.Empty;

    /// <summary>Changes scene and begins it anew.</summary>
    public void Perform(string scene, Person person, int take)
    {
        var made = SlotMaker.Make(MarkerSimulator.Labelled(SceneCatalog.Perform(scene, person, take), new MarkerSimulator.Settings(MinimumCameras: 3)), take);
        lock (_lock)
        {
            (_take, _at, Scene) = (made, 0, scene);
        }
    }

    /// <summary>Begins the scene from its first frame.</summary>
    public void Restart()
    {
        lock (_lock)
        {
            _at = 0;
        }
    }

    public async Task Run(CancellationToken cancel)
    {
        using var socket = new UdpClient(AddressFamily.InterNetwork);
        var clock = Stopwatch.StartNew();
        var buffer = new byte[RingPacket.Header + (RingPacket.Slots * RingPacket.Dot)];
        uint frame = 0;
        while (!cancel.IsCancellationRequested)
        {
            MarkerTake? take;
            int at;
            lock (_lock)
            {
                take = _take;
                at = _at;
                _at = take is null ? 0 : (_at + 1) % take.FrameCount;
            }

            if (take is not null)
            {
                var size = RingPacket.Write(buffer, frame, take.At(at));
                await socket.SendAsync(buffer.AsMemory(0, size), target, cancel);
                Sent++;
                frame++;
            }

            var due = TimeSpan.FromSeconds((frame + (take is null ? 1 : 0)) / (take?.FrameRate ?? 120));
            var wait = due - clock.Elapsed;
            if (take is null)
            {
                await Task.Delay(50, cancel);
                clock.Restart();
                frame = 0;
            }
            else if (wait > TimeSpan.FromMilliseconds(1))
            {
                await Task.Delay(wait, cancel);
            }
        }
    }
}
