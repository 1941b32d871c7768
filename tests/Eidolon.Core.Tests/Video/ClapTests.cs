using System.Numerics;
using Eidolon.Core.Video;

namespace Eidolon.Core.Tests.Video;

public sealed class ClapTests
{
    [Theory]
    [InlineData(3, 1.31)]
    [InlineData(8, 4.02)]
    public void The_sharpest_sound_is_the_clap(int seed, double at)
    {
        var random = new Random(seed);
        var loud = Enumerable
            .Range(0, 1200)
            .Select(i => (0.02f * random.NextSingle()) + (0.05f * MathF.Max(0, MathF.Sin(i * 0.02f))))
            .ToArray();
        for (var i = 0; i < 20; i++)
        {
            loud[(int)(at * 200) + i] += 0.8f * MathF.Exp(-i * 0.3f);
        }

        Assert.Equal(at, ClapFinder.InSound(loud, 200)!.Value, 0.011);
    }

    [Fact]
    public void Silence_and_a_hum_have_no_clap()
    {
        Assert.Null(ClapFinder.InSound(new float[1000], 200));
        Assert.Null(ClapFinder.InSound([.. Enumerable.Range(0, 1000).Select(i => 0.5f + (0.1f * MathF.Sin(i * 0.01f)))], 200));
        Assert.Null(ClapFinder.InSound([1], 200));
    }

    [Theory]
    [InlineData(120)]
    [InlineData(60)]
    public void Two_wrists_that_meet_fast_and_stop_are_the_clap(int rate)
    {
        var left = new Vector3[rate * 5];
        var right = new Vector3[rate * 5];
        for (var f = 0; f < left.Length; f++)
        {
            var t = f / (double)rate;
            // Apart, then together within a quarter of a second at 2.5 s, held there.
            var gap =
                t < 2.25 ? 0.8
                : t < 2.5 ? 0.8 - ((t - 2.25) / 0.25 * 0.65)
                : 0.15;
            (left[f], right[f]) = (new Vector3((float)gap / 2, 1.3f, 0.4f), new Vector3((float)-gap / 2, 1.3f, 0.4f));
        }

        Assert.Equal(2.5, ClapFinder.InMotion(left, right, rate)!.Value, 0.03);
        Assert.Null(ClapFinder.InMotion([.. left.Select(_ => Vector3.Zero)], right, rate));
        Assert.Null(ClapFinder.InMotion([.. left.Select(_ => new Vector3(float.NaN))], right, rate));
    }
}
