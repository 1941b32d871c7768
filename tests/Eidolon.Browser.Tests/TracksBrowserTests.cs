using System.Globalization;
using Eidolon.Core.Operations;
using Eidolon.Storage.Model;
using Eidolon.Testing;
using OpenQA.Selenium.Interactions;
using Xunit.Abstractions;

namespace Eidolon.Browser.Tests;

/// <summary>Clips by hand on a scene half built: the figure goes with the edge that is dragged, before anything is kept.</summary>
public sealed class TracksBrowserTests(DemoStudio studio, ITestOutputHelper output) : TakePage(studio), IClassFixture<DemoStudio>
{
    private static int Number(object? value) => Convert.ToInt32(value, CultureInfo.InvariantCulture);

    [Fact]
    public void The_figure_follows_the_edge_of_a_clip_and_stands_so_when_the_hand_lets_go()
    {
        Browser.Open("/scenes/1/assemble");
        Browser.Ready();
        var kept = Entries(LedgerOwner.Scene(1)).Count;
        Browser.Js(
            """
            window.same = true;
            window.row = () => eidolon.lanes.lanes.findIndex(l => l.kind === 'track' && l.blocks.length === 3);
            window.lane = () => eidolon.lanes.lanes[row()];
            window.figure = () => eidolon.stage.figures.find(f => f.info.node === lane().node);
            eidolon.lanes.rowElements[row()].scrollIntoView({ block: 'center' }); eidolon.clock.set(0)
            """
        );
        Browser.Until("return eidolon.tracks.trying.connection.state === 'Connected'", "the way to try things");
        var place =
            (IReadOnlyCollection<object>)
                Browser.Js(
                    """
                    const r = eidolon.lanes.rowElements[row()].getBoundingClientRect(), s = document.querySelector('.e-scrub').getBoundingClientRect(),
                    at = f => s.left + (f - eidolon.lanes.from) / (eidolon.lanes.to - eidolon.lanes.from) * s.width;
                    return [at(lane().blocks[2][1]) - 2, at(lane().blocks[2][1] - 90), r.top + r.height / 2]
                    """
                )!;
        var (x, to, y) = (Number(place.ElementAt(0)), Number(place.ElementAt(1)), Number(place.ElementAt(2)));
        var end = Number(Browser.Js("return lane().blocks[2][1]"));
        var hand = new Actions(Browser.Driver).MoveToLocation(x, y).ClickAndHold();
        for (var k = 1; k <= 8; k++)
        {
            hand = hand.MoveToLocation(x + ((to - x) * k / 8), y).Pause(TimeSpan.FromMilliseconds(60));
        }

        hand.Perform();
        Browser.Until("return !!figure().held && !eidolon.tracks.trying.asking", "the pose at the edge");
        var seen = Number(Browser.Js("return eidolon.clock.frame"));
        Assert.InRange(seen, end - 120, end - 30);
        var held = (IReadOnlyCollection<object>)Browser.Js("return [...figure().held.pose].slice(0, 3)")!;
        output.WriteLine(
            (string)
                Browser.Js(
                    "const t = eidolon.tracks.trying.times.map(x => Math.round(x)).sort((a, b) => a - b); return `${t.length} answers, ${t.join(' ')} ms`"
                )!
        );
        // Nothing is kept while the hand is on it.
        Assert.Equal(kept, Entries(LedgerOwner.Scene(1)).Count);
        Change(() => new Actions(Browser.Driver).Release().Perform(), "the clip that ends earlier");
        Assert.InRange(Number(Browser.Js("return lane().blocks[2][1]")), seen - 2, seen + 2);
        var stood =
            (IReadOnlyCollection<object>)
                Browser.Js($"const f = figure(); return [...f.data].slice({seen} * f.stride, {seen} * f.stride + 3)")!;
        foreach (var (was, now) in held.Zip(stood))
        {
            Assert.Equal(Convert.ToDouble(was, CultureInfo.InvariantCulture), Convert.ToDouble(now, CultureInfo.InvariantCulture), .03);
        }

        Change(() => Key("u"), "undo");
        Assert.Equal(end, Number(Browser.Js("return lane().blocks[2][1]")));
        // All of it on one and the same page: the Stage was never loaded anew.
        Assert.True(Browser.Js("return window.same === true") is true);
        Assert.Empty(Browser.Problems());
    }
}
