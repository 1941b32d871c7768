using System.Numerics;
using Eidolon.Devices;
using Eidolon.StandIns.Devices;
using Eidolon.StandIns.People;

namespace Eidolon.Core.Tests.StandIns;

/// <summary>A stand-in that plays longer than its scene goes back through it: nobody is suddenly elsewhere.</summary>
public sealed class SceneClockTests
{
    [Theory]
    [InlineData(120, 8.3)]
    [InlineData(100, 8.3)]
    [InlineData(30, 8.27)]
    [InlineData(60, 0.14)]
    public void From_one_moment_to_the_next_it_is_at_most_one_frame_further(double rate, double seconds)
    {
        var clock = new SceneClock();
        clock.Begin(1000);
        var frames = (int)Math.Ceiling(seconds * rate) + 1;
        var before = clock.Frame(1000, seconds, rate, frames);
        Assert.Equal(0, before);
        var (least, most) = (frames, 0);
        for (var k = 1; k < 60 * rate; k++)
        {
            var now = clock.Frame(1000 + (k / rate), seconds, rate, frames);
            Assert.InRange(now, before - 1, before + 1);
            Assert.InRange(now, 0, frames - 1);
            (before, least, most) = (now, Math.Min(least, now), Math.Max(most, now));
        }

        Assert.Equal(0, least);
        Assert.InRange(most, Math.Floor(SceneClock.Loop(seconds) * rate) - 1, frames - 1);
    }

    [Fact]
    public void Devices_of_all_rates_show_the_same_moment_also_on_the_way_back()
    {
        var clock = new SceneClock();
        clock.Begin(50);
        for (var t = 50.0; t < 90; t += 0.1)
        {
            double At(double rate) => clock.Frame(t, 7.45, rate, 2000) / rate;
            Assert.Equal(At(120), At(30), 0.034);
            Assert.Equal(At(120), At(100), 0.011);
        }
    }

    [Fact]
    public void A_suit_turns_the_other_way_when_it_goes_back()
    {
        var suit = new SuitStandIn();
        suit.Perform("gangplank-hop", HarbourCast.Ines, 1);
        suit.Scenes.Begin(0);
        var bytes = new byte[4096];
        var seconds = Acts.Perform("gangplank-hop", HarbourCast.Ines, 1, SuitSensors.Rate).Seconds;
        Vector3[] Gyros(double time)
        {
            var values = new float[SuitSensors.Bones.Count * SuitSensors.Values];
            Assert.True(FloatPayload.TryRead(bytes.AsSpan(0, suit.Payload(0, time, bytes)), values));
            return [.. Enumerable.Range(0, SuitSensors.Bones.Count).Select(b => new Vector3(values.AsSpan(b * SuitSensors.Values, 3)))];
        }

        var end = SceneClock.Loop(seconds);
        var (before, after) = (Gyros(end - 4), Gyros(end + 4));
        Assert.Contains(before, g => g.Length() > 0.05);
        Assert.All(before.Zip(after), p => Assert.True((p.First + p.Second).Length() < 1e-5, $"{p.First} and {p.Second}"));
    }
}
