using System.Globalization;
using System.Text.Json.Nodes;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Testing;
using OpenQA.Selenium;

namespace Eidolon.Browser.Tests;

/// <summary>What a character is held to, set on the page: sliders, keys over time, offsets, both sides at once.</summary>
public sealed class HoldBrowserTests(DemoStudio studio) : TakePage(studio, paints: true), IClassFixture<DemoStudio>
{
    private const string Name = "HL_014_haul-rope_02";

    private double Number(string script) => Convert.ToDouble(Browser.Js("return " + script), CultureInfo.InvariantCulture);

    private Core.Retargeting.RetargetSetup Setup() =>
        RetargetOperation.SetupFrom(Entries(Name).Last(e => e.Entry.Operation == "retarget").Entry.Parameters);

    [Fact]
    public void Hands_are_held_on_both_sides_with_keys_and_an_offset()
    {
        Browser.Open($"/takes/{Take(Name).Id}/retarget");
        Browser.Ready();
        Browser.Until("return !!window.eidolon.hold && window.eidolon.hold.connection.state === 'Connected'", "the Hold controls");
        Change(() => Click("[name=travel][value=footprints]"), "the performer's footprints");
        Assert.False(Setup().ScaleTravel);
        Browser.Until("return !!window.eidolon.hold", "the page after the change");
        var before = Number("parseFloat(document.querySelector('[data-drift=HandL]').textContent)");
        Assert.True(before > 50, $"{before} mm");
        // By keyboard: the slider to its end; the other side goes along, the drift is told while it moves.
        Change(() => Browser.One("[name='place.HandR']").SendKeys(Keys.End), "both hands to be held");
        Assert.Equal((1f, 1f), (Setup().Hold(BodyRole.HandL).Place, Setup().Hold(BodyRole.HandR).Place));
        Browser.Until("return parseFloat(document.querySelector('[data-drift=HandL]').textContent) < 1", "the hand on the rope");
        Assert.Contains("Hand, held", (string)Browser.Js("return eidolon.scene.lanes.map(l => l.name).join()")!, StringComparison.Ordinal);

        // A key here, another elsewhere: held now and free later.
        Browser.Until("return !!window.eidolon.hold", "the controls");
        Browser.Js("eidolon.clock.set(300); document.getElementById('hold-both').checked = false");
        Click("[data-choose=HandL]");
        Browser.Js("document.querySelector('[data-choose=HandL]').focus()");
        Change(() => Browser.One("[data-choose=HandL]").SendKeys("a"), "a key");
        Assert.Equal((300, 1f), (Setup().Hold(BodyRole.HandL).Keys[0].Frame, Setup().Hold(BodyRole.HandL).Keys[0].Place));
        Browser.Until("return !!window.eidolon.hold", "the controls");
        Browser.Js("eidolon.clock.set(600); document.getElementById('hold-both').checked = false");
        Change(() => Browser.One("[name='place.HandL']").SendKeys(Keys.Home), "a second key");
        var keys = Setup().Hold(BodyRole.HandL).Keys;
        Assert.Equal([(300, 1f), (600, 0f)], keys.Select(k => (k.Frame, k.Place)));
        Assert.Empty(Setup().Hold(BodyRole.HandR).Keys);
        Browser.Until("return !!window.eidolon.hold", "the controls");
        // The slider shows what holds at the playhead.
        Browser.Js("eidolon.clock.set(450)");
        Assert.InRange(Number("document.querySelector('[name=\"place.HandL\"]').value"), 45, 55);

        Browser.Js("document.querySelector('[data-choose=FootR]').focus()");
        Change(
            () => Browser.Js("const f = document.querySelector('[data-offset=\"1\"]'); f.value = 30; f.dispatchEvent(new Event('change'))"),
            "a foot 30 mm higher"
        );
        Assert.Equal(0.03f, Setup().Hold(BodyRole.FootR).Offset.Y, 1e-4f);
        Assert.Empty(Browser.Problems());
    }

    [Fact]
    public void A_note_lies_at_its_frame_leads_back_there_and_stands_in_the_report()
    {
        Browser.Open($"/takes/{Take(Name).Id}/retarget");
        Browser.Js("eidolon.clock.set(312)");
        Browser.Js("document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'j', bubbles: true }))");
        Browser.Until("return document.activeElement.id === 'jot'", "J to lead to the note");
        // While one writes nothing else is meant, and the arrow keys are the text's.
        Browser.One("#jot").SendKeys("left hand lowered: it was in the rope" + Keys.Enter);
        Browser.Until("return document.querySelector('[data-jot]')?.dataset.jot === '312'", "the note");
        Assert.Equal("312", Browser.Js("return eidolon.lanes.marks.join()"));
        Browser.Js("eidolon.clock.set(40)");
        Browser.Until("return document.querySelector('[data-jot-at]').textContent === '40'", "the frame it would be kept at");
        Browser.One("#jot").SendKeys(" " + Keys.Enter);
        Browser.Until("return /needs words/.test(document.querySelector('#part-notes [role=alert]')?.textContent)", "the refusal in words");
        Click(".e-jot");
        Browser.Until("return eidolon.clock.frame === 312", "back to the frame of the note");

        Click("[data-jot] form button");
        Browser.Until("return !!document.querySelector('[data-jot-back]') && eidolon.lanes.marks.length === 0", "the note to be gone");
        Click("[data-jot-back]");
        Browser.Until("return eidolon.lanes.marks.join() === '312'", "the note again");
        Click("#report");
        Browser.Until("return location.pathname.endsWith('/report') && document.body.dataset.ready === 'true'", "the report");
        Assert.Contains("it was in the rope", Browser.One("#jotted [data-jot='312']").Text, StringComparison.Ordinal);
        Assert.Contains("frame 312", (string)Browser.Js("return document.getElementById('shots').textContent")!, StringComparison.Ordinal);
        Assert.Empty(Browser.Problems());
    }

    [Fact]
    public void A_prop_is_attached_to_the_hands_given_other_frames_and_detached()
    {
        const string walk = "HL_009_lamp-walk_01";
        Browser.Open($"/takes/{Take(walk).Id}/retarget");
        JsonObject? Held() => Entries(walk).LastOrDefault(e => e.Entry.Operation == "attach")?.Entry.Parameters;
        // The demo has it in her hand: first it goes as it was recorded.
        Change(() => Click("[data-let-go]"), "the pole let go");
        Browser.Until("return eidolon.stage.props.map(p => p.info.goes).join() === 'recorded'", "the pole as it was recorded");
        Change(() => Click("[data-attach]"), "the pole in the hand");
        Browser.Until("return eidolon.stage.props.map(p => p.info.goes).join() === 'recorded,attached'", "the pole twice");
        // Side by side each goes with its own figure.
        Assert.Equal("-0.65,0.65", Browser.Js("return eidolon.stage.props.map(p => p.aside).join()"));
        var hand = Held()!["hands"]!.AsArray().Single()!;
        Assert.Equal("HandR", (string?)hand["hand"]);
        Assert.Contains("hands within", Browser.One(".e-attached").Text, StringComparison.Ordinal);

        // Let go at frame 900, and 20 mm higher in the hand.
        Browser.Js(
            """
            const set = (f, v) => { f.value = v; f.dispatchEvent(new Event('input', { bubbles: true })); };
            set(document.querySelector('.e-hands [aria-label="Last frame"]'), 900); set(document.querySelector('[aria-label="Moved up, millimetres"]'), 20);
            """
        );
        Change(() => Click("[data-keep]"), "other frames");
        Assert.Equal((900, 20), ((int)Held()!["hands"]![0]!["end"]!, (int)Held()!["offset"]![1]!));
        Browser.Until("return eidolon.stage.props.length === 2", "the props");
        // From there on it is as high as it was recorded: nobody has it.
        Assert.Equal(
            true,
            Browser.Js("const d = eidolon.stage.props[1].data, r = eidolon.stage.props[0].data; return d[1200 * 7 + 1] === r[1200 * 7 + 1]")
        );
        // Put down there by hand, it stays.
        Click(".e-hands [type=checkbox]");
        Change(() => Click("[data-keep]"), "put down");
        Assert.True((bool)Held()!["hands"]![0]!["stays"]!);
        Browser.Until(
            "const d = eidolon.stage.props[1]?.data; return d && [0, 1, 2].every(k => Math.abs(d[1000 * 7 + k] - d[1200 * 7 + k]) < 1e-4)",
            "the pole to stay where the hand let it go"
        );
        Change(() => Click("[data-let-go]"), "detached");
        Browser.Until("return eidolon.stage.props.map(p => p.info.goes).join() === 'recorded'", "the pole as it was recorded");
        Assert.Null(Held());
        Assert.Empty(Browser.Problems());
    }
}
