using System.Net;
using System.Net.Sockets;
using Eidolon.Devices;
using Eidolon.StandIns.Devices;
using Eidolon.Studio.Live.Devices;
using Eidolon.Testing;
using Microsoft.Extensions.Logging.Abstractions;

namespace Eidolon.Studio.Tests;

/// <summary>One device over a real socket: what is lost, broken or sent twice is counted, and nothing else gets through.</summary>
[Collection(nameof(OnTheClock)), Trait(LongRun.Run, LongRun.Whole)]
public sealed class DeviceTests
{
    private static UdpDeviceSource Face() =>
        new(
            "face",
            "Face",
            "weights",
            DeviceKind.Face,
            1,
            60,
            0,
            p => FloatPayload.TryRead(p.Span, new float[FaceWeights.Names.Count]),
            NullLogger.Instance
        );

    [Fact]
    public async Task Five_percent_loss_is_counted_right()
    {
        using var device = Face();
        using var stop = new CancellationTokenSource();
        var listening = device.Run(stop.Token);
        var sender = new StandInSender(new FaceStandIn(), device.Address, new StandInSender.Settings(LossPercent: 5, Seed: 9));
        var sending = sender.Run(stop.Token);
        await Asking.Until(() => sender.Sent + sender.Withheld > 400);
        await stop.CancelAsync();
        await Task.WhenAny(sending);
        await listening;
        // Losses at the very end have not been noticed yet.
        Assert.InRange(device.Meter.Lost, sender.Withheld - 3, sender.Withheld);
        Assert.InRange(device.Meter.Received, sender.Sent - 3, sender.Sent);
        Assert.True(sender.Withheld > 5);
        Assert.Equal(0, device.Meter.Bad);
    }

    [Fact]
    public async Task Random_bytes_wrong_sizes_replays_and_strangers_are_counted_and_kept_out()
    {
        using var device = Face();
        using var stop = new CancellationTokenSource();
        var arrived = new List<uint>();
        device.Arrived += a => arrived.Add(a.Packet.Sequence);
        var listening = device.Run(stop.Token);
        using var socket = new UdpClient();
        var random = new Random(4);
        var face = new FaceStandIn();
        var good = new byte[DevicePacket.Largest];
        var bad = 0;
        for (uint i = 0; i < 300; i++)
        {
            var size = new DevicePacket(DeviceKind.Face, 0, 80, i, i / 60.0).Write(
                good,
                face.Payload(0, i / 60.0, good.AsSpan(DevicePacket.Header))
            );
            await socket.SendAsync(good.AsMemory(0, size), device.Address);
            var junk =
                i % 4 == 0 ? good.AsSpan(0, size).ToArray()
                : i % 4 == 1 ? good.AsSpan(0, size - 1 - random.Next(20)).ToArray()
                : i % 4 == 2 ? Stranger(good.AsSpan(0, size).ToArray())
                : new byte[random.Next(1, 4000)];
            if (i % 4 == 3)
            {
                random.NextBytes(junk);
            }

            await socket.SendAsync(junk, device.Address);
            bad++;
            if (i % 50 == 0)
            {
                await Task.Delay(5);
            }
        }

        await Asking.Until(() => device.Meter.Received == 300 && device.Meter.Bad == bad);
        Assert.Equal(Enumerable.Range(0, 300).Select(i => (uint)i), arrived);
        Assert.Equal(0, device.Meter.Lost);
        Assert.NotEqual(string.Empty, device.Meter.Status(device).LastError);
        await stop.CancelAsync();
        await listening;
    }

    [Fact]
    public void The_clock_of_a_device_is_told_from_its_quickest_packet()
    {
        var meter = new DeviceMeter(100);
        var random = new Random(3);
        for (uint i = 0; i < 500; i++)
        {
            var sent = 1000 + (i * 0.01);
            meter.Note(
                new DevicePacket(DeviceKind.Suit, 0, 50, i, sent + 0.011),
                sent + (i % 7 == 0 ? 0 : random.NextDouble() * 0.02),
                "here"
            );
        }

        Assert.InRange(meter.Offset, 0.0109, 0.0111);
    }

    [Fact]
    public void A_device_that_starts_anew_is_heard_at_once_and_a_replay_is_not()
    {
        var meter = new DeviceMeter(100);
        for (uint i = 0; i < 200; i++)
        {
            Assert.True(meter.Note(new DevicePacket(DeviceKind.Suit, 0, 50, i, 1000 + (i * 0.01)), 1000 + (i * 0.01), "here"));
        }

        Assert.False(meter.Note(new DevicePacket(DeviceKind.Suit, 0, 50, 150, 1001.5), 1002.1, "here"));
        Assert.True(meter.Note(new DevicePacket(DeviceKind.Suit, 0, 50, 0, 1002.2), 1002.2, "here"));
        Assert.True(meter.Note(new DevicePacket(DeviceKind.Suit, 0, 50, 1, 1002.21), 1002.21, "here"));
        Assert.Equal((202, 0, 1), (meter.Received, meter.Lost, meter.Bad));
    }

    [Theory]
    [InlineData(12, 120)]
    [InlineData(1, 100)]
    [InlineData(8, 240)]
    public void The_rate_of_a_device_is_that_of_each_camera_that_sends(int cameras, double rate)
    {
        using var device = Face();
        var meter = new DeviceMeter(rate);
        var began = StudioClock.Now - 2;
        for (uint i = 0; i < 2 * rate; i++)
        {
            for (byte camera = 0; camera < cameras; camera++)
            {
                meter.Note(new DevicePacket(DeviceKind.Ring, camera, null, i, began + (i / rate)), began + (i / rate), "here");
            }
        }

        Assert.InRange(meter.Status(device).Rate, rate * 0.9, rate * 1.1);
    }

    [Fact]
    public async Task A_port_in_use_is_no_obstacle()
    {
        using var first = Face();
        using var second = new UdpDeviceSource("x", "X", "x", DeviceKind.Face, 1, 60, first.Address.Port, _ => true, NullLogger.Instance);
        Assert.NotEqual(first.Address.Port, second.Address.Port);
        Assert.Equal(IPAddress.Loopback, second.Address.Address);
        await Task.CompletedTask;
    }

    private static byte[] Stranger(byte[] packet)
    {
        packet[5] = (byte)DeviceKind.Suit;
        return packet;
    }
}
