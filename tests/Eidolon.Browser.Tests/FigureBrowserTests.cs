using System.Globalization;
using Eidolon.Testing;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;

namespace Eidolon.Browser.Tests;

/// <summary>Figures on the Stage as they are drawn: guide colours, views, what a page costs, and what is said when something does not come.</summary>
public sealed class FigureBrowserTests(DemoStudio studio) : TakePage(studio, paints: true), IClassFixture<DemoStudio>
{
    private double Number(string script) => Convert.ToDouble(Browser.Js("return " + script), CultureInfo.InvariantCulture);

    private string Page(string take, string step) => $"/takes/{Take(take).Id}/{step}";

    private void Press(string keys) => Browser.One("canvas.stage").SendKeys(keys);

    [Fact]
    public void Guide_colours_are_a_choice_for_performers_and_never_a_characters()
    {
        Browser.Open(Page("HL_009_lamp-walk_01", "retarget"));
        Browser.Ready();
        const string Amounts =
            "eidolon.stage.figures.map(f => f.info.kind + Math.max(...f.skins.map(s => s.material.uniforms.amounts.value.w))).join()";
        Assert.Equal("performer0.4,character0", Browser.Js("return " + Amounts));
        Press(Keys.Shift + "e");
        Browser.Until($"return {Amounts} === 'performer0,character0'", "plain suits");
        // A choice is remembered.
        Browser.Open(Page("HL_009_lamp-walk_01", "retarget"));
        Browser.Ready();
        Assert.Equal("performer0,character0", Browser.Js("return " + Amounts));
        Press(Keys.Shift + "e");
        Browser.Until($"return {Amounts} === 'performer0.4,character0'", "guide colours again");
        Assert.Empty(Browser.Problems());
    }

    [Fact]
    public void Views_are_one_two_or_four_and_a_take_keeps_its_own()
    {
        Browser.Open(Page("HL_009_lamp-walk_01", "assemble"));
        Browser.Ready();
        foreach (var (views, width) in new[] { (2, .5), (4, .5), (1, 1d) })
        {
            Press(Keys.Shift + "f");
            Browser.Until($"return eidolon.stage.views.count === {views}", $"{views} views");
            Assert.Equal(width, Number("eidolon.stage.width / document.getElementById('stage').clientWidth"), 3);
        }

        Browser.Until("return eidolon.stage.renderer.info.render.frame > 0", "a picture");
        Browser.Js(
            "eidolon.stage.camera.position.set(1.5, 1.2, 3.9); eidolon.stage.controls.target.set(0.3, 0.9, 0.2); eidolon.stage.controls.update();"
        );
        Browser.Until(
            "return Object.keys(sessionStorage).some(k => k.startsWith('stage:view:') && sessionStorage[k].startsWith('[1.5,1.2,3.9'))",
            "the view kept"
        );
        Browser.Open(Page("HL_009_lamp-walk_01", "assemble"));
        Browser.Ready();
        Assert.Equal(3.9, Number("eidolon.stage.camera.position.z"), 2);
        // Another take has its own.
        Browser.Open(Page("HL_014_haul-rope_02", "assemble"));
        Browser.Ready();
        Assert.NotEqual(3.9, Number("eidolon.stage.camera.position.z"), 2);
    }

    [Fact]
    public void A_hauled_rope_runs_from_the_bollard_through_the_hands()
    {
        Browser.Open(Page("HL_014_haul-rope_02", "assemble"));
        Browser.Ready();
        Browser.Js("eidolon.clock.set(620)");
        Browser.Until("return eidolon.stage.ropes.length === 1 && eidolon.stage.ropes[0].points[24].y > 1", "the rope in the hands");
        // Its 24th knot is in the palm of the hand that holds it last; its last one lies on the floor.
        Assert.InRange(
            Number(
                "Math.min(...eidolon.stage.ropes[0].hands(eidolon.stage.figures).map(h => h.distanceTo(eidolon.stage.ropes[0].points[24])))"
            ),
            0,
            .02
        );
        Assert.InRange(Number("eidolon.stage.ropes[0].points[40].y"), 0, .03);
        Assert.InRange(Number("eidolon.stage.ropes[0].points[0].y"), .3, .45);
    }

    [Fact]
    public void A_pose_that_is_not_there_costs_neither_the_view_nor_the_figure_and_nothing_is_drawn_while_nothing_moves()
    {
        Browser.Open("/scenes/1/assemble");
        Browser.Until("return eidolon.stage.figures.length > 0 && !eidolon.stage.dirty", "the figures");
        const string View = "[...eidolon.stage.camera.position.toArray(), ...eidolon.stage.controls.target.toArray()]";
        // As a motion of another length leaves it, or a piece that has not come.
        Browser.Js(
            """
            const s = eidolon.stage, at = eidolon.clock.frame + 5; window.before = s.pacing.frames;
            for (const f of s.figures) f.data.fill(NaN, at * f.stride, (at + 1) * f.stride);
            eidolon.clock.set(at)
            """
        );
        Browser.Until("return eidolon.stage.pacing.frames > before && !eidolon.stage.dirty", "a picture");
        Assert.True((bool)Browser.Js($"return {View}.every(Number.isFinite)")!, "the view is lost");
        Assert.True(
            (bool)
                Browser.Js(
                    "return eidolon.stage.figures.every(f => Number.isFinite(f.bones[f.info.pelvis].getWorldPosition(f.group.position.clone()).x))"
                )!
        );
        Browser.Js("eidolon.clock.step(1); window.before = eidolon.stage.pacing.frames");
        Browser.Until("return eidolon.stage.pacing.frames > before && !eidolon.stage.dirty", "the next picture");
        Assert.True((bool)Browser.Js($"return {View}.every(Number.isFinite)")!);

        // Another size empties the canvas: the picture is in it again before anybody sees that.
        const string Painted = """
            (() => { const gl = eidolon.stage.renderer.getContext(), p = new Uint8Array(4 * 64);
              gl.readPixels(gl.drawingBufferWidth / 2, gl.drawingBufferHeight / 3, 8, 8, gl.RGBA, gl.UNSIGNED_BYTE, p);
              return p.some((v) => v > 0); })()
            """;
        Assert.True((bool)Browser.Js($"eidolon.stage.resize(); return {Painted}")!, "the Stage is empty after a change of its size");

        // Whole and at rest: five seconds without a picture.
        Browser.Until("return !eidolon.stage.pacing.owed && !eidolon.stage.dirty", "the last picture to be whole");
        var drawn = Browser.Driver.ExecuteAsyncScript(
            "const done = arguments[0], n = eidolon.stage.pacing.frames; setTimeout(() => done(eidolon.stage.pacing.frames - n), 5000)"
        );
        Assert.Equal(0L, drawn);
    }

    [Fact]
    public void A_stage_that_does_not_come_says_so_and_offers_again()
    {
        var chrome = (ChromeDriver)Browser.Driver;
        chrome.ExecuteCdpCommand("Network.enable", []);
        chrome.ExecuteCdpCommand("Network.setBlockedURLs", new() { ["urls"] = new[] { "*.glb*" } });
        chrome.Navigate().GoToUrl(Browser.Address + Page("HL_009_lamp-walk_01", "assemble"));
        Browser.Until("return document.querySelector('#loading button')?.textContent === 'Load again'", "the failure to be told");
        Assert.Contains("could not be loaded", Browser.One("#loading").Text, StringComparison.Ordinal);
        chrome.ExecuteCdpCommand("Network.setBlockedURLs", new() { ["urls"] = Array.Empty<string>() });
        Browser.One("#loading button").Click();
        Browser.Until("return !document.getElementById('loading') && eidolon.stage.figures.length === 1", "the Stage after all");
    }
}
