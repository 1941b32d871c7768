using System.Globalization;
using Eidolon.Core.Operations;
using Eidolon.Storage.Model;
using Eidolon.Testing;
using OpenQA.Selenium.Interactions;
using Xunit.Abstractions;

namespace Eidolon.Browser.Tests;

/// <summary>Clips by hand on a scene half built: the figure goes with the edge that is dragged, before anything is kept.</summary>
public sealed class TracksBrowserTests(DemoStudio studio, ITestOutputHelper output)
    : TakePage(studio, paints: true),
        IClassFixture<DemoStudio>
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

    private void Opened()
    {
        Browser.Open("/scenes/1/assemble");
        Browser.Ready();
        Browser.Js(
            """
            window.row = () => eidolon.lanes.lanes.findIndex(l => l.kind === 'track' && l.name === 'Stevedore');
            window.lane = () => eidolon.lanes.lanes[row()]; localStorage.clear(); sessionStorage.clear()
            """
        );
    }

    private string Order() => (string)Browser.Js("return lane().clips.map(c => c.node).join()")!;

    private void Command(string key) =>
        Browser.Js(
            $"document.body.dispatchEvent(new KeyboardEvent('keydown', {{ key: '{key}', ctrlKey: true, bubbles: true, cancelable: true }}))"
        );

    [Fact]
    public void Several_clips_are_copied_laid_again_and_taken_off_at_once_and_a_locked_track_stays()
    {
        Opened();
        var was = Order();
        var nodes = was.Split(',');
        // A click chooses one, a click with Shift one more.
        var places =
            (IReadOnlyCollection<object>)
                Browser.Js(
                    """
                    eidolon.lanes.rowElements[row()].scrollIntoView({ block: 'center' });
                    const r = eidolon.lanes.rowElements[row()].getBoundingClientRect(), s = document.querySelector('.e-scrub').getBoundingClientRect();
                    return [...lane().blocks.map(([a, b]) => s.left + ((a + b) / 2 - eidolon.lanes.from) / (eidolon.lanes.to - eidolon.lanes.from) * s.width),
                      r.top + r.height / 2]
                    """
                )!;
        int Place(int k) => Number(places.ElementAt(k));
        new Actions(Browser.Driver).MoveToLocation(Place(0), Place(3)).Click().Perform();
        new Actions(Browser.Driver)
            .KeyDown(OpenQA.Selenium.Keys.Shift)
            .MoveToLocation(Place(2), Place(3))
            .Click()
            .KeyUp(OpenQA.Selenium.Keys.Shift)
            .Perform();
        Assert.Equal("0,2", Browser.Js("return eidolon.tracks.all.join()"));
        Command("c");
        Change(() => Command("v"), "the copies");
        Assert.Equal($"{was},{nodes[0]},{nodes[2]}", Order());
        Assert.Equal("3,4", Browser.Js("return eidolon.tracks.all.join()"));
        // What is said of one goes to all that are chosen.
        Change(
            () =>
                Browser.Js(
                    "const m = document.getElementById('clip-mirror'); m.checked = true; m.dispatchEvent(new Event('change', { bubbles: true }))"
                ),
            "mirrored"
        );
        Assert.Equal("3,4", Browser.Js("return lane().clips.flatMap((c, i) => c.mirror ? [i] : []).join()"));
        Change(() => Key("Delete"), "both taken off");
        Assert.Equal(was, Order());
        // Mute takes the figure off the Stage, solo leaves one, lock keeps hands off.
        Browser.Js("document.querySelector('[data-track] [data-track-is=mute]').click()");
        Assert.Equal(1L, Browser.Js("return eidolon.stage.figures.filter(f => f.group.visible).length"));
        Browser.Js("document.querySelector('[data-track] [data-track-is=solo]').click()");
        Assert.Equal("Stevedore", Browser.Js("return eidolon.stage.figures.filter(f => f.group.visible).map(f => f.info.name).join()"));
        Browser.Js("document.querySelector('[data-track] [data-track-is=lock]').click(); eidolon.tracks.choose(lane().node, 1)");
        Key("Delete");
        Browser.Until("return /is locked/.test(document.querySelector('.e-toast')?.textContent)", "the reason");
        Assert.Equal(was, Order());
        Browser.Open("/scenes/1/assemble");
        Browser.Ready();
        Assert.Equal(
            "mute,solo,lock",
            Browser.Js("return [...document.querySelectorAll('[data-track-is][aria-pressed=true]')].map(b => b.dataset.trackIs).join()")
        );
        Browser.Js("localStorage.clear()");
        Assert.Empty(Browser.Problems());
    }

    /// <summary>
    /// The middle of the chosen clip's way on the plan, page pixels, and its scale. The pointer is on it, and it is still there two pictures later: what
    /// is above the plan in its sheet may still change its height.
    /// </summary>
    private (double X, double Y, double Scale) UnderTheHand()
    {
        (double X, double Y) before = (-1, -1);
        for (var t = 0; t < 20; t++)
        {
            var at = (
                (IEnumerable<object>)
                    Browser.Driver.ExecuteAsyncScript(
                        """
                        const done = arguments[arguments.length - 1], above = document.getElementById('above');
                        above.scrollIntoView({ block: 'center' });
                        requestAnimationFrame(() => requestAnimationFrame(() => {
                          const w = eidolon.echoes.placing.way(), r = above.getBoundingClientRect(), p = w.places[w.places.length >> 1];
                          done([r.left + p[0], r.top + p[1], w.scale]);
                        }));
                        """
                    )!
            ).Select(v => Convert.ToDouble(v, CultureInfo.InvariantCulture)).ToArray();
            if (before == (at[0], at[1]))
            {
                return (at[0], at[1], at[2]);
            }

            before = (at[0], at[1]);
            new Actions(Browser.Driver).MoveToLocation((int)at[0], (int)at[1]).Perform();
        }

        throw new TimeoutException("the plan does not stand still");
    }

    [Fact]
    public void A_jolt_is_found_gone_to_and_smoothed_and_a_clip_is_put_elsewhere_on_the_plan()
    {
        Opened();
        Browser.Js("eidolon.tracks.choose(lane().node, 1)");
        Change(
            () =>
                Browser.Js(
                    "const o = document.getElementById('overlap'); o.value = 0; o.dispatchEvent(new Event('change', { bubbles: true }))"
                ),
            "a cut"
        );
        Browser.Until("return document.querySelectorAll('#joins [data-smooth]').length === 1", "the jolt among the Findings");
        Browser.Js("eidolon.clock.set(0)");
        Key("n");
        var cut = Number(Browser.Js("return lane().overlaps.find(o => o.clip === 1).start"));
        Assert.Equal(cut, Number(Browser.Js("return eidolon.clock.frame")));
        Change(() => Browser.Js("document.querySelector('#joins [data-smooth]').click()"), "smoothed");
        Browser.Until("return !document.querySelector('#joins [data-smooth]')", "no jolt any more");
        Assert.Equal(36L, Browser.Js("return lane().clips[1].smooth"));
        Assert.True(
            Browser.Js(
                "return lane().overlaps.find(o => o.clip === 1).accelerationPeakRatio < 1.5 && /was/.test(document.getElementById('measures').textContent)"
            )
                is true
        );

        // Its way is dragged in the plan from above.
        Browser.Until(
            "return !eidolon.echoes.asked && !!eidolon.echoes.placing.way() && document.querySelector('#moments').ariaBusy === 'false'",
            "the plan of what is there now"
        );
        var (x, y, scale) = UnderTheHand();
        var last = (string)
            Browser.Js("const f = eidolon.echoes.paths.find(p => p.node === lane().node).path.at(-1); return f.slice(1).join()")!;
        Change(
            () =>
                new Actions(Browser.Driver)
                    .MoveToLocation((int)x, (int)y)
                    .ClickAndHold()
                    .MoveToLocation((int)x + 8, (int)y + 4)
                    .MoveToLocation((int)x + 16, (int)y)
                    .Release()
                    .Perform(),
            "the clip elsewhere"
        );
        var moved = Convert.ToDouble(Browser.Js("return lane().clips[1].moved.x"), CultureInfo.InvariantCulture);
        Assert.Equal(16 / scale, moved, .05);
        Browser.Until(
            $"const f = eidolon.echoes.paths.find(p => p.node === lane().node).path.at(-1); return f.slice(1).join() !== '{last}'",
            "the way that goes elsewhere"
        );
        // The later clip goes along, by as much.
        var by = Convert.ToDouble(
            Browser.Js(
                $"const f = eidolon.echoes.paths.find(p => p.node === lane().node).path.at(-1), l = '{last}'.split(','); return f[1] - l[0]"
            ),
            CultureInfo.InvariantCulture
        );
        Assert.Equal(moved, by, .02);
        for (var k = 0; k < 3; k++)
        {
            Change(() => Key("u"), "undo");
        }

        Assert.Equal("best", Browser.Js("return lane().clips[1].overlap"));
        Assert.Empty(Browser.Problems());
    }

    [Theory]
    [InlineData("shiftKey", "speed", .5)]
    [InlineData("altKey", "repeat", 2)]
    public void The_end_of_a_clip_is_dragged_to_play_it_otherwise(string key, string what, double value)
    {
        Opened();
        // The last clip drawn out to twice its length.
        Change(
            () =>
                Browser.Js(
                    $$"""
                    const l = lane(), [a, b] = l.blocks[2], scrub = document.querySelector('.e-scrub'), s = scrub.getBoundingClientRect(),
                      y = eidolon.lanes.rowElements[row()].getBoundingClientRect(), c = eidolon.tracks.definite(l)[2], own = c.end - c.start,
                      x = f => s.left + (f - eidolon.lanes.from) / (eidolon.lanes.to - eidolon.lanes.from) * s.width;
                    document.getElementById('snap').checked = false;
                    const at = (type, f) => scrub.dispatchEvent(new PointerEvent(type, { clientX: x(f), clientY: y.top + y.height / 2, bubbles: true,
                      cancelable: true, pointerId: 1, {{key}}: true }));
                    scrub.setPointerCapture = () => {};
                    at('pointerdown', b); at('pointermove', b + own / 2); at('pointermove', a + 2 * own + 1); at('pointerup', a + 2 * own + 1);
                    """
                ),
            what
        );
        Assert.Equal(value, Convert.ToDouble(Browser.Js($"return lane().clips[2].{what}"), CultureInfo.InvariantCulture), .06);
        Change(() => Key("u"), "undo");
        Assert.Empty(Browser.Problems());
    }
}
