using Eidolon.Devices;

namespace Eidolon.Core.Tests.StandIns;

/// <summary>Packets that claim to be a device's: forged senders, counts and clocks; and devices that are really started anew.</summary>
public sealed class DeviceGateTests
{
    private const double Rate = 120;
    private readonly DeviceGate _gate = new(Rate);
    private double _now = 500;

    private static DevicePacket Packet(long sequence, double clock, byte source = 0) =>
        new(DeviceKind.Ring, source, null, unchecked((uint)sequence), clock);

    private string Send(long sequence, double clock, string from = "device", byte source = 0) =>
        _gate.Judge(Packet(sequence, clock, source), _now, from, out _);

    private void Play(int frames, ref long sequence, ref double clock, string from = "device")
    {
        for (var i = 0; i < frames; i++)
        {
            Assert.Equal(string.Empty, Send(sequence++, clock, from));
            clock += 1 / Rate;
            _now += 1 / Rate;
        }
    }

    [Fact]
    public void Forged_counts_and_clocks_of_another_sender_change_nothing()
    {
        var (sequence, clock) = (0L, 10.0);
        Play(100, ref sequence, ref clock);
        for (var i = 0; i < 12; i++)
        {
            Assert.NotEqual(string.Empty, Send(0x7ffffff0 + i, 1e11, "forger"));
            Assert.NotEqual(string.Empty, Send(sequence + 1, clock, "forger"));
        }

        Play(100, ref sequence, ref clock);
        Assert.Equal(1, _gate.Session);
    }

    [Fact]
    public void Forged_packets_before_the_device_are_over_after_a_second()
    {
        for (var i = 0; i < 12; i++)
        {
            Send(0x7ffffff0 + i, 1e11, "forger");
        }

        _now += 1.2;
        var (sequence, clock) = (0L, 10.0);
        Play(300, ref sequence, ref clock);
        Assert.Equal(2, _gate.Session);
    }

    [Theory]
    [InlineData(0x7ffffff0, 0)]
    [InlineData(3_000_000, 0)]
    [InlineData(1, 1e11)]
    [InlineData(1, 3600)]
    [InlineData(1, -3600)]
    public void A_jump_of_the_device_itself_is_left_out_until_it_goes_on_steadily(long ahead, double clockAhead)
    {
        var (sequence, clock) = (0L, 10.0);
        Play(100, ref sequence, ref clock);
        // One wild packet, and everything as before.
        Assert.Contains("jumped", Send(sequence + ahead, clock + clockAhead), StringComparison.Ordinal);
        Play(10, ref sequence, ref clock);
        Assert.Equal(1, _gate.Session);
        // A device that really goes on from there is believed soon.
        var (other, otherClock, refused) = (sequence + ahead, clock + clockAhead, 0);
        while (Send(other++, otherClock) != string.Empty)
        {
            otherClock += 1 / Rate;
            _now += 1 / Rate;
            Assert.True(++refused < DeviceGate.Agreement + 2);
        }

        Assert.Equal(2, _gate.Session);
    }

    [Fact]
    public void A_pause_of_the_same_device_goes_on_and_tells_what_is_missing()
    {
        var (sequence, clock) = (0L, 10.0);
        Play(100, ref sequence, ref clock);
        _now += 4;
        Assert.Equal(string.Empty, _gate.Judge(Packet(sequence + 480, clock + 4), _now, "device", out var lost));
        Assert.Equal((480, 1), (lost, _gate.Session));
    }

    [Fact]
    public void A_source_that_paused_for_long_has_lost_nothing()
    {
        var (sequence, clock) = (0L, 10.0);
        Play(100, ref sequence, ref clock);
        foreach (var (seconds, missing) in new[] { (4.0, 480), (3600, 0) })
        {
            _now += seconds;
            clock += seconds;
            sequence += (long)(seconds * Rate);
            Assert.Equal(string.Empty, _gate.Judge(Packet(sequence++, clock), _now, "device", out var lost));
            Assert.Equal(missing, lost);
            clock += 1 / Rate;
            _now += 1 / Rate;
            Play(20, ref sequence, ref clock);
        }
    }

    [Fact]
    public void A_device_started_anew_is_heard_at_once_when_its_clock_goes_on()
    {
        var (sequence, clock) = (5000L, 10.0);
        Play(100, ref sequence, ref clock);
        var anew = 0L;
        Play(100, ref anew, ref clock);
        Assert.Equal(2, _gate.Session);
        // From another port it waits until the one before is silent.
        Assert.NotEqual(string.Empty, Send(0, 1, "other"));
        _now += 1.1;
        Assert.Equal(string.Empty, Send(1, 1.2, "other"));
    }

    [Fact]
    public void A_replay_is_left_out()
    {
        var (sequence, clock) = (0L, 10.0);
        Play(100, ref sequence, ref clock);
        Assert.NotEqual(string.Empty, Send(50, 10 + (50 / Rate)));
        Assert.NotEqual(string.Empty, Send(99, 10 + (99 / Rate)));
        Play(100, ref sequence, ref clock);
    }

    [Fact]
    public void Losses_of_every_camera_are_counted_for_itself()
    {
        for (var f = 0; f < 50; f++)
        {
            for (byte c = 0; c < 12; c++)
            {
                if (f % 10 == 5 && c == 3)
                {
                    continue;
                }

                Assert.Equal(string.Empty, _gate.Judge(Packet(f, f / Rate, c), _now, "ring", out var lost));
                Assert.Equal(f % 10 == 6 && c == 3 ? 1 : 0, lost);
            }

            _now += 1 / Rate;
        }
    }
}
