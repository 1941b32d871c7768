using System.Globalization;
using Eidolon.Core.Operations;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Browser.Tests.Journeys;

/// <summary>Journey 1 up to Retarget: two who carry the crate are recorded, labelled, cleaned, solved, and play two characters.</summary>
public sealed class QuayTests(DemoStudio studio) : Journey(studio), IClassFixture<DemoStudio>
{
    [Fact]
    public void Ines_plays_the_Lamplighter_Tobi_the_Stevedore_and_the_crate_itself()
    {
        Browser.Open("/record");
        Press("[data-performer=Tobi]");
        Press("[data-prop=Crate]");
        Choose("#scene", "crate-carry");
        Browser.Until(
            "return ['body-Ines', 'body-Tobi', 'prop-Crate'].every(k => document.querySelector(`[data-check='${k}']`)?.className === 'good')",
            "both performers and the crate to be found",
            120
        );
        InPlace();
        Press("#record");
        Browser.Until(
            "return parseFloat(document.getElementById('record-word').textContent.replace(/[^0-9.]/g, '')) > 8",
            "eight seconds of recording",
            60
        );
        Press("#record");
        Browser.Until("return location.pathname.endsWith('/label') && document.readyState === 'complete'", "the take's Label page");
        Browser.Ready();
        var take = int.Parse(new Uri(Browser.Driver.Url).Segments[2].Trim('/'), CultureInfo.InvariantCulture);
        PressAndWait("form button[hx-vals*='\"label\"']", "the names");
        Browser.Until("return /[0-9]/.test(document.querySelector('.e-big').textContent)", "the share that is named", 60);
        Assert.True(double.Parse(Browser.One(".e-big").Text.Split(' ')[0], CultureInfo.InvariantCulture) > 95, Browser.One(".e-big").Text);
        GoTo("clean");
        PressAndWait("form button[hx-vals*='\"fill\"']", "the gaps to be filled");
        GoTo("solve");
        PressAndWait("form button[hx-vals*='\"solve\"']", "both to be solved");
        Assert.Equal(2L, Browser.Js("return eidolon.stage.figures.length"));
        GoTo("retarget");
        Assert.Equal(["Ines", "Lamplighter"], Proposed());
        PressCast(3);
        Assert.Equal(["Tobi", "Stevedore"], Proposed());
        PressCast(4);
        Assert.True(Actions <= 14, $"{Actions} actions");
        // What is on the Stage: two performers, two characters with their own bodies, and the crate where it was recorded.
        Assert.Equal(
            "Ines performer, Tobi performer, Lamplighter character, Stevedore character",
            Browser.Js("return eidolon.scene.figures.map(f => `${f.name} ${f.kind}`).join(', ')")
        );
        Assert.Equal("Crate", Browser.Js("return eidolon.scene.props.map(p => p.name).join()"));
        // What a graphics card has to do for two characters, the crate and the floor.
        Browser.Js("[...document.querySelectorAll('#show button')].find(b => b.textContent === 'Characters').click()");
        Browser.Until(
            "return eidolon.stage.figures.filter(f => f.group.visible).length === 2 && !eidolon.stage.dirty",
            "both characters alone"
        );
        Assert.InRange(
            Convert.ToInt32(Browser.Js("return eidolon.stage.renderer.info.render.calls"), CultureInfo.InvariantCulture),
            10,
            150
        );
        Assert.InRange(
            Convert.ToInt32(Browser.Js("return eidolon.stage.renderer.info.render.triangles"), CultureInfo.InvariantCulture),
            50_000,
            250_000
        );
        var entries = Entries(LedgerOwner.Take(take));
        Assert.Equal(2, entries.Count(e => e.Entry.Operation == "solve"));
        Assert.Equal(2, entries.Count(e => e.Entry.Operation == "retarget"));
        using var scope = Server.Services.CreateScope();
        var open = scope.ServiceProvider.GetRequiredService<TakeService>().Open(take);
        Assert.True(Assert.Single(open.Props).Places!.SeenFrames > 100);
        Assert.Equal(2, open.Performers.Count(p => p.Motion is not null));
        Assert.Equal(2, open.Played.Count());
        // Whoever holds the crate holds it as a character too: each hand within 5 mm all the while it is held.
        foreach (var cast in open.Played)
        {
            var setup = RetargetOperation.SetupFrom(cast.State.Node.Entries.Last(e => e.Operation == "retarget").Parameters);
            Assert.False(setup.ScaleTravel);
            var source = open.Performers.Single(p => p.Subject.Id == cast.Subject.Id);
            var ground = (float)(double)cast.State.Last("retarget")!.Report["groundMetres"]!;
            var drift = HoldDrift.Of(source.Motion!, cast.Motion!, setup, ground);
            foreach (var hand in new[] { BodyRole.HandL, BodyRole.HandR })
            {
                Assert.Contains(setup.Hold(hand).Keys, k => k.Place >= 1);
                var off = drift[hand].Where((_, f) => setup.Hold(hand).At(f).Place >= 1).Max();
                Assert.True(off <= 5, $"{cast.Name} {hand} {off:0.0} mm off the crate");
            }
        }
    }

    private string[] Proposed() =>
        [.. ((string)Browser.Js("return ['who', 'whom'].map(i => document.getElementById(i).selectedOptions[0].text).join()")!).Split(',')];

    private void PressCast(int figures)
    {
        Press("#cast-it");
        Browser.Until(
            $$"""
            return document.body.dataset.ready === 'true' && location.search.includes('cast=')
            && eidolon.stage.figures.length === {{figures}} && !document.querySelector('#job progress')
            """,
            "the character to move",
            120
        );
    }
}
