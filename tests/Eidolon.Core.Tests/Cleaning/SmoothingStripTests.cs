using Eidolon.Core.Cleaning;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Cleaning;

public sealed class SmoothingStripTests
{
    [Fact]
    public void A_lower_cut_off_keeps_less_and_the_strip_adds_up()
    {
        var take = Acts.Labelled(
            Acts.Perform("gangplank-hop", new Person("Odd", 1.7f, 1.05f, 9), 2),
            new MarkerSimulator.Settings(SpikesPerMinute: 0, Occlusion: false)
        );
        var strips = new double[] { 3, 6, 12, 24 }
            .Select(c => SmoothingStrip.Of(take, c, 100))
            .ToArray();
        Assert.All(strips.Zip(strips.Skip(1)), p =>
            Assert.True(p.First.Kept < p.Second.Kept && p.First.SoftestKept <= p.Second.SoftestKept + 0.01)
        );
        Assert.All(strips, s =>
        {
            Assert.Equal(100, s.Before.Length);
            Assert.Equal(s.Kept, s.After.Sum() / s.Before.Sum(), 3);
            Assert.InRange(s.Proposed, 6, 20);
            Assert.InRange(s.Softest, 0, take.FrameCount - 1);
        });
        Assert.True(strips[3].Kept > 0.97, $"{strips[3].Kept}");
    }
}
