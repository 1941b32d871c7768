using Eidolon.Studio.Live;

namespace Eidolon.Studio.Tests;

public sealed class LiveAudienceTests
{
    [Fact]
    public void A_slow_page_gets_fewer_frames_and_a_quick_one_all()
    {
        var audience = new LiveAudience();
        audience.Enter("quick");
        audience.Enter("slow");
        var got = new Dictionary<string, int> { ["quick"] = 0, ["slow"] = 0 };
        for (var frame = 0; frame < 100; frame++)
        {
            foreach (var page in audience.Next())
            {
                got[page]++;
            }

            audience.Seen("quick");
            if (frame % 10 == 0)
            {
                audience.Seen("slow");
            }
        }

        Assert.Equal(100, got["quick"]);
        Assert.InRange(got["slow"], 10, 13);
        audience.Leave("slow");
        Assert.Equal(["quick"], audience.Next());
        audience.Seen("nobody");
    }
}
