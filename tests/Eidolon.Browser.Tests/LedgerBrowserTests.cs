using Eidolon.Testing;
using OpenQA.Selenium.Interactions;

namespace Eidolon.Browser.Tests;

/// <summary>What an animator does to a Ledger, to contacts and to Findings, in the real interface. Every take is left as it was.</summary>
public sealed class LedgerBrowserTests(DemoStudio studio) : TakePage(studio), IClassFixture<DemoStudio>
{
    [Fact]
    public void Entries_are_changed_compared_kept_as_a_version_and_brought_back()
    {
        var take = Take("HL_014_haul-rope_02");
        var before = Entries(take.Name).Select(l => l.Entry.Operation).ToArray();
        Assert.Equal(["label", "despike", "fill"], before.Take(3));
        Browser.Open($"/takes/{take.Id}/clean");
        Click("#versions summary");
        Browser.Js("document.querySelector('#versions input[name=name]').value = 'As it came'");
        Click("#versions form[data-handler=Version] button");
        Browser.Until("return /As it came/.test(document.getElementById('versions').textContent)", "the version");
        // Another longest gap: run as a job, and the entry says the new number.
        var fill = Entries(take.Name)[2].Id;
        Click($"#entry-{fill} summary");
        Browser.Js($"document.getElementById('p-{fill}-longest').value = '2'");
        Change(() => Click($"#entry-{fill} form[hx-post*=Edit] button"), "the change");
        Assert.Equal(2, (int?)Entries("HL_014_haul-rope_02")[2].Entry.Parameters["longest"]);
        // Spikes out goes after the fill: those two may trade places.
        var rows = Entries("HL_014_haul-rope_02");
        Change(
            () =>
                Browser.Js(
                    """
                    document.querySelector(`[data-row='${arguments[0]}']`).dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowDown',
                    altKey: true, bubbles: true }))
                    """,
                    rows[1].Id
                ),
            "another order"
        );
        Assert.Equal(["label", "fill", "despike"], Entries("HL_014_haul-rope_02").Select(l => l.Entry.Operation).Take(3));
        // Against the take after its labels: the numbers of then beside those of now, and the path of then in the curves.
        Browser.Js(
            "const c = document.getElementById('compare'); c.value = '1'; c.dispatchEvent(new Event('change', { bubbles: true })); eidolon.stage.select(0)"
        );
        Browser.Until(
            "return eidolon.curves.rivals.size === 1 && eidolon.curves.before.length === 1 && /after 2/.test(document.querySelector('.e-quality').textContent)",
            "the comparison"
        );
        Click("#versions summary");
        Change(() => Click("#versions form[data-handler=Restore] button"), "the version to come back");
        Assert.Equal(before, Entries("HL_014_haul-rope_02").Select(l => l.Entry.Operation));
        // Back to the original, which keeps what there was as a version of its own.
        Change(() => Click("#versions form[data-handler=Original] button"), "the original");
        Assert.Empty(Entries("HL_014_haul-rope_02"));
        Change(
            () =>
                Browser.Js(
                    """
                    [...document.querySelectorAll('#versions form[data-handler=Restore]')]
                        .find(f => /As it came/.test(f.textContent)).querySelector('button').click()
                    """
                ),
            "the version again"
        );
        Assert.Equal(before, Entries("HL_014_haul-rope_02").Select(l => l.Entry.Operation));
    }

    [Fact]
    public void An_order_that_makes_no_sense_is_refused_in_words()
    {
        var take = Take("HL_014_haul-rope_02");
        Browser.Open($"/takes/{take.Id}/clean");
        Browser.Js(
            "eidolon.ledger.move(document.querySelector(`[data-row='${arguments[0]}']`), document.querySelector(`[data-row='${arguments[1]}']`))",
            Entries(take.Name)[1].Id,
            Entries(take.Name)[0].Id
        );
        Browser.Until("return /cannot go before 'Label'/.test(document.querySelector('.e-toast')?.textContent ?? '')", "a refusal");
        Assert.Equal(Entries(take.Name).Select(l => l.Id), Entries("HL_014_haul-rope_02").Select(l => l.Id));
    }

    [Fact]
    public void A_contact_is_dragged_and_freed_and_stays_when_it_is_found_again()
    {
        var take = Take("HL_009_lamp-walk_01");
        Browser.Open($"/takes/{take.Id}/clean");
        Browser.Js(
            """
            document.getElementById('curves').value = 'off'; document.getElementById('curves').dispatchEvent(new Event('change'));
            window.lane = () => eidolon.lanes.lanes.findIndex(l => l.contact && l.side === 'L');
            window.heel = () => eidolon.lanes.lanes[lane()].blocks.filter(b => b[2] === 'heel')[2];
            eidolon.lanes.rowElements[lane()].scrollIntoView({ block: 'center' }); eidolon.lanes.show(heel()[0] - 40, heel()[1] + 40)
            """
        );
        var start = Convert.ToInt32(Browser.Js("return heel()[0]"));
        // The left edge of the heel goes twelve frames back; what is dragged is the upper half, where heels are drawn.
        var place =
            (IReadOnlyCollection<object>)
                Browser.Js(
                    """
                    const r = eidolon.lanes.rowElements[lane()], s = document.querySelector('.e-scrub').getBoundingClientRect(),
                    b = r.getBoundingClientRect(),
                    at = f => s.left + (f - eidolon.lanes.from) / (eidolon.lanes.to - eidolon.lanes.from) * s.width;
                    return [at(heel()[0]), at(heel()[0] - 12), b.top + b.height * 0.3]
                    """
                )!;
        var (x, to, y) = (Convert.ToInt32(place.ElementAt(0)), Convert.ToInt32(place.ElementAt(1)), Convert.ToInt32(place.ElementAt(2)));
        Change(
            () =>
                new Actions(Browser.Driver)
                    .MoveToLocation(x, y)
                    .ClickAndHold()
                    .MoveToLocation((x + to) / 2, y)
                    .MoveToLocation(to, y)
                    .Release()
                    .Perform(),
            "the contact"
        );
        Assert.Equal("contacts", Entries("HL_009_lamp-walk_01").MaxBy(e => e.Added)!.Entry.Operation);
        Assert.InRange(Convert.ToInt32(Browser.Js("return heel()[0]")), start - 14, start - 10);
        Assert.True(Browser.Js("return heel()[3] === true && /by hand/.test(eidolon.lanes.lanes[lane()].tally)") is true);
        // It is freed with a click and Delete; solving anew finds it again, and what was decided stands over it.
        var inside = Convert.ToInt32(
            Browser.Js(
                """
                const s = document.querySelector('.e-scrub').getBoundingClientRect();
                return s.left + ((heel()[0] + heel()[1]) / 2 - eidolon.lanes.from) / (eidolon.lanes.to - eidolon.lanes.from) * s.width
                """
            )
        );
        var (from, end) = (Convert.ToInt32(Browser.Js("return heel()[0]")), Convert.ToInt32(Browser.Js("return heel()[1]")));
        new Actions(Browser.Driver).MoveToLocation(inside, y).Click().Perform();
        Browser.Until("return eidolon.lanes.chosenBlock !== null", "the chosen contact");
        Change(() => Key("Delete"), "the free foot");
        Assert.True(
            Browser.Js($"return eidolon.lanes.lanes[lane()].blocks.every(b => b[2] !== 'heel' || b[1] < {from} || b[0] > {end})") is true
        );
        foreach (var _ in new[] { 1, 2 })
        {
            Change(() => Key("u"), "undo");
        }

        Assert.Equal(start, Convert.ToInt32(Browser.Js("return heel()[0]")));
        // The same without a mouse: the first contact in time ends ten frames earlier.
        Key("k");
        Browser.Until("return eidolon.lanes.chosenBlock !== null", "a contact chosen by key");
        var (begin, last, lane) = (
            Convert.ToInt32(Browser.Js("return eidolon.lanes.chosenBlock[0]")),
            Convert.ToInt32(Browser.Js("return eidolon.lanes.chosenBlock[1]")),
            Convert.ToInt32(Browser.Js("return eidolon.lanes.lanes.findIndex(l => l.blocks?.includes(eidolon.lanes.chosenBlock))"))
        );
        Browser.Js($"eidolon.clock.set({last - 10})");
        Change(() => Key("."), "an earlier end");
        Assert.True(Browser.Js($"return eidolon.lanes.lanes[{lane}].blocks.some(b => b[0] === {begin} && b[1] === {last - 10})") is true);
        Change(() => Key("u"), "undo");
    }

    [Fact]
    public void A_finding_is_ignored_with_a_reason_and_shown_again()
    {
        var take = Take("HL_014_haul-rope_03");
        Browser.Open($"/takes/{take.Id}/clean");
        var count = Convert.ToInt32(Browser.Js("return document.querySelectorAll('#findings .e-finding').length"));
        Assert.True(count > 1);
        Key("n");
        Browser.Until("return !document.getElementById('ignore').classList.contains('e-hidden')", "the reason");
        Browser.Js(
            "const f = document.getElementById('ignore'); f.querySelector('input').value = 'hidden behind the bollard'; f.requestSubmit()"
        );
        Browser.Until(
            $$"""
            return document.querySelectorAll('#findings .e-finding').length === {{count - 1}}
            && /hidden behind the bollard/.test(document.getElementById('ignored').textContent)
            """,
            "one less"
        );
        Browser.Js("document.querySelector('[data-regard]').click()");
        Browser.Until($"return document.querySelectorAll('#findings .e-finding').length === {count}", "it again");
    }

    [Fact]
    public void Dots_are_boxed_on_the_stage_suggested_and_lose_their_names_by_key()
    {
        var take = Take("HL_014_haul-rope_03");
        Browser.Open($"/takes/{take.Id}/label");
        var box = Browser.One("#stage canvas.stage");
        var (width, height) = (box.Size.Width, box.Size.Height);
        new Actions(Browser.Driver)
            .KeyDown(OpenQA.Selenium.Keys.Shift)
            .MoveToElement(box, (-width / 2) + 80, (-height / 2) + 60)
            .ClickAndHold()
            .MoveToElement(box, 0, 0)
            .MoveToElement(box, (width / 2) - 80, (height / 2) - 60)
            .Release()
            .KeyUp(OpenQA.Selenium.Keys.Shift)
            .Perform();
        Browser.Until("return eidolon.stage.markers.also.length > 20", "many dots");
        // One of them is hidden from its name: the likeliest name of the dot is the one it had.
        Browser.Js("const i = eidolon.scene.markers.findIndex(m => m.name === 'KneeOutL'); eidolon.stage.select(i)");
        Change(() => Key("x"), "a label off");
        Assert.True(Browser.Js("return eidolon.scene.markers.every(m => m.name !== 'KneeOutL')") is true);
        Browser.Js(
            """
            eidolon.labels.suggest(eidolon.scene.markers.findIndex((m, i) => !m.named
            && eidolon.stage.markers.seen(eidolon.clock.frame, i)
            && eidolon.state.samples.columns[i].filter(v => !Number.isNaN(v)).length > 1500))
            """
        );
        Browser.Until("return document.getElementById('suggestions').children.length > 0", "suggestions");
        Assert.StartsWith(
            "KneeOutL",
            (string)Browser.Js("return document.querySelector('#suggestions button').textContent")!,
            StringComparison.Ordinal
        );
        Change(() => Browser.Js("document.querySelector('#suggestions button').click()"), "the name again");
        Assert.True(Browser.Js("return eidolon.scene.markers.some(m => m.name === 'KneeOutL')") is true);
        foreach (var _ in new[] { 1, 2 })
        {
            Change(() => Key("u"), "undo");
        }
    }

    [Fact]
    public void A_name_that_the_server_refuses_goes_from_the_screen_again()
    {
        var take = Take("HL_009_lamp-walk_03");
        Browser.Open($"/takes/{take.Id}/label");
        // The dot is gone on the server: the page has not heard of it.
        Browser.Js(
            """
            const i = eidolon.scene.markers.findIndex((m, k) => !m.named && eidolon.stage.markers.seen(0, k));
            window.was = eidolon.scene.markers[i].name; eidolon.scene.markers[i].name = 'Dot_999'; eidolon.labels.name(i, 'Crown')
            """
        );
        Browser.Until("return /no trajectory 'Dot_999'/.test(document.querySelector('.e-toast')?.textContent ?? '')", "the reason");
        Browser.Until(
            "return eidolon.scene.markers.every(m => m.name !== 'Crown') && eidolon.scene.markers.some(m => m.name === window.was)",
            "the dot as it was"
        );
        Assert.Empty(Entries("HL_009_lamp-walk_03"));
    }

    [Fact]
    public void A_foot_of_the_suit_is_locked_between_two_frames_and_taken_back()
    {
        var take = Take("HL_040_suit-patrol_01");
        Browser.Open($"/takes/{take.Id}/solve");
        void Type(string name, int frame)
        {
            var field = Browser.One($"form[data-lock] input[name={name}]");
            field.Clear();
            field.SendKeys(frame.ToString(System.Globalization.CultureInfo.InvariantCulture));
        }

        Type("from", 1400);
        Type("to", 1520);
        Change(() => Click("form[data-lock] button[value=R]"), "the locked foot");
        var entry = Entries("HL_040_suit-patrol_01").MaxBy(e => e.Added)!.Entry;
        Assert.Equal("contacts", entry.Operation);
        Assert.Equal("foot R", $"{entry.Parameters["point"]} {entry.Parameters["side"]}");
        // One plant of heel and one of toes, all the way, decided by hand.
        Browser.Until(
            "return ['heel', 'toes'].every(p => eidolon.lanes.lanes.find(l => l.contact && l.side === 'R').blocks"
                + ".some(b => b[2] === p && b[0] <= 1400 && b[1] >= 1520))",
            "the foot planted"
        );
        Change(() => Key("u"), "the foot free again");
        Assert.DoesNotContain(Entries("HL_040_suit-patrol_01"), e => e.Entry.Operation == "contacts");
    }
}
