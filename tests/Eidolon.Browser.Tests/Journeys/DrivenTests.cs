using System.Globalization;
using Eidolon.Storage.Model;
using Eidolon.Testing;
using Xunit.Abstractions;

namespace Eidolon.Browser.Tests.Journeys;

/// <summary>Journey 10 as far as the Stage: a performer drives the Lamplighter while the ring records, and nothing of the recording is lost.</summary>
public sealed class DrivenTests(DemoStudio studio, ITestOutputHelper output) : Journey(studio, paints: false), IClassFixture<DemoStudio>
{
    [Fact]
    public void Ines_drives_the_Lamplighter_while_she_is_recorded()
    {
        Browser.Open("/record");
        Browser.Until("return !!window.eidolon?.view?.loaded", "the live Stage");
        if (Browser.Js("return document.querySelector('[data-performer=Ines]').getAttribute('aria-pressed')") is not "true")
        {
            Press("[data-performer=Ines]");
        }

        Choose("#scene", "lamp-walk");
        Choose($"[data-plays='{Server.Ids("Ines")[0]}']", "Lamplighter");
        Browser.Until(
            "return document.querySelector(`[data-check='body-Ines']`)?.className === 'good' && eidolon.view.figures.some(f => f.beside && f.group.visible)",
            "the Lamplighter to move"
        );
        // Both go by what one frame said: while the page draws, the way of her hips is the way of the performer's, as long as her legs make it.
        Browser.Js(
            """
            window.seen = [];
            const v = eidolon.view, draw = v.frame.bind(v);
            v.frame = (...a) => {
              draw(...a);
              const [p, c] = [v.figures.find(f => !f.beside), v.figures.find(f => f.beside)];
              if (p.tagged && c.tagged) window.seen.push([p.data[0], p.data[2], c.data[0], c.data[2], v.later]);
            };
            """
        );
        InPlace();
        Press("#record");
        Browser.Until(
            "return parseFloat(document.getElementById('record-word').textContent.replace(/[^0-9.]/g, '')) > 6 && window.seen.length > 20",
            "six seconds of recording",
            120
        );
        var pairs = ((IEnumerable<object>)Browser.Js("return window.seen")!)
            .Select(row =>
                ((IEnumerable<object>)row).Select(n => n is null ? double.NaN : Convert.ToDouble(n, CultureInfo.InvariantCulture)).ToArray()
            )
            .ToList();
        Press("#record");
        Browser.Until("return location.pathname.endsWith('/label') && document.readyState === 'complete'", "the take's Label page");
        Browser.Ready();
        Assert.True(Actions <= 8, $"{Actions} actions");

        // Between what was shown one after the other she went as much farther or less far as her legs are longer or shorter, and not a frame behind.
        double Way(int lag) =>
            pairs.Skip(1 + lag).Select((p, i) => Step(p, pairs[i + lag], 2) - (Scale() * Step(pairs[i + 1], pairs[i], 0))).Sum(d => d * d);
        double Scale() =>
            pairs.Skip(1).Select((p, i) => Step(p, pairs[i], 2)).Sum() / pairs.Skip(1).Select((p, i) => Step(p, pairs[i], 0)).Sum();
        static double Step(double[] a, double[] b, int at) => Math.Sqrt(Math.Pow(a[at] - b[at], 2) + Math.Pow(a[at + 1] - b[at + 1], 2));
        var behind = Enumerable.Range(0, 4).MinBy(Way);
        output.WriteLine(
            $"{Actions} actions, {pairs.Count} pictures, scale {Scale():0.00}, {behind} behind; said {pairs[^1][4]:0.0} ms later"
        );
        Assert.Equal(0, behind);
        Assert.InRange(Scale(), 0.5, 0.95);
        using var db = Db();
        var take = db.Takes.OrderByDescending(t => t.Id).First();
        Assert.Equal(TakeState.Kept, take.State);
        Assert.True(take.FrameCount > 6 * take.FrameRate, $"{take.FrameCount} frames");
        Assert.NotEmpty(TakeDevice.Of(take));
        Assert.All(TakeDevice.Of(take), d => Assert.Equal(0, d.Lost));
    }
}
