using System.Globalization;
using Eidolon.Storage.Model;
using Eidolon.Testing;
using Xunit.Abstractions;

namespace Eidolon.Browser.Tests.Journeys;

/// <summary>
/// Journey 2: the take that never shows a clear pose is named by itself, its weakest names are looked at, a swap is exchanged where one is left, what is
/// too long, too unsure or at an end of the take is filled from the skeleton.
/// </summary>
public sealed class UnderTheNetTests(DemoStudio studio, ITestOutputHelper output) : Journey(studio), IClassFixture<DemoStudio>
{
    private const string Open =
        "[...document.querySelectorAll('#part-findings .e-finding[data-kind=gap], #part-findings .e-finding[data-kind=missing]')]";

    private int Count(string script) => Convert.ToInt32(Browser.Js($"return {script}.length"), CultureInfo.InvariantCulture);

    [Fact]
    public void All_are_named_and_nothing_is_left_to_look_at()
    {
        var take = Take("HL_027_deck-crouch_01").Id;
        Browser.Open($"/takes/{take}/label");
        PressAndWait("form button[hx-vals*='\"label\"']", "the names");
        var named = double.Parse(Browser.One(".e-big").Text.Split(' ')[0], CultureInfo.InvariantCulture);
        Assert.True(named >= 99, $"{named} % named");
        for (var k = 0; k < Math.Min(2, Count("document.querySelectorAll('#part-findings .e-finding')")); k++)
        {
            KeyPress("n");
            Browser.Until("return !!document.querySelector('#part-findings .e-finding.sel')", "the next Finding");
        }

        if (Count("document.querySelectorAll('#part-findings .e-finding[data-kind=swap]')") > 0)
        {
            Press("#part-findings .e-finding[data-kind=swap]");
            PressAndWait("#remedy-swap [data-exchange=end]", "the exchange");
        }

        GoTo("clean");
        PressAndWait("form button[hx-vals*='\"fill\"']", "the gaps to be filled");
        Browser.Until("return document.querySelectorAll('#part-findings .e-finding').length > 0", "the Findings");
        // Creeping hides a marker for longer than usual: up to four seconds may be filled where the error is small, and what has nothing on its
        // other side to go to is carried by the body.
        Type("#longest", "480");
        Press("#ends");
        PressAndWait("form button[hx-vals*='\"fill\"']", "the long gaps to be filled");
        var rounds = 0;
        for (; Count(Open) > 0 && rounds < 2; rounds++)
        {
            Browser.Js($"{Open}[0].dataset.chosen = 'yes'");
            Press("#part-findings .e-finding[data-chosen=yes]");
            Browser.Until(
                "return document.querySelector('#remedy [data-method=skeleton] input')?.disabled === false",
                "the skeleton to offer itself"
            );
            Press("#remedy [data-method=skeleton] input");
            PressAndWait("#take-it", "the gap to be filled");
        }

        var left = Browser.Js(
            "return [...document.querySelectorAll('#part-findings .e-finding')]"
                + ".map(f => f.innerText.split('\\n').join(' ') + ' ' + f.dataset.start + '-' + f.dataset.end).join(' | ')"
        );
        output.WriteLine($"{Actions} actions, {named} % named, {rounds} gaps from the skeleton; left: {left}");
        Assert.Equal(0, Count(Open));
        Assert.Equal(0, Count("document.querySelectorAll('#part-findings .e-sev.must')"));
        Assert.True(Actions <= 16, $"{Actions} actions");
        Assert.Equal(2 + rounds, Entries(LedgerOwner.Take(take)).Count(e => e.Entry.Operation == "fill"));
    }
}
