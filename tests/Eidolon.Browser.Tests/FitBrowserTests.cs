using System.Globalization;
using Eidolon.Storage.Model;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using OpenQA.Selenium;

namespace Eidolon.Browser.Tests;

/// <summary>A body put right by hand through the real interface, and fingers and a face seen at Solve.</summary>
public sealed class FitBrowserTests(DemoStudio studio) : TakePage(studio), IClassFixture<DemoStudio>
{
    private double Number(string script) => Convert.ToDouble(Browser.Js("return " + script), CultureInfo.InvariantCulture);

    private int[] At(string role) =>
        [
            .. ((IReadOnlyCollection<object>)Browser.Js("return eidolon.at(arguments[0])", role)!).Select(v =>
                (int)Math.Round(Convert.ToDouble(v, CultureInfo.InvariantCulture))
            ),
        ];

    [Fact]
    public void A_knee_is_dragged_in_the_markers_taken_back_moved_by_keys_and_kept()
    {
        var ines = Server.Ids("Ines")[0];
        Browser.Open("/record/performers?performer=" + ines);
        Click("#fit-by-hand");
        Browser.Until("return location.pathname.endsWith('/fit') && document.body.dataset.ready === 'true'", "the fit by hand");
        var measured = Number("eidolon.state().meanMillimetres");
        Assert.InRange(measured, 0.2, 2);

        var at = At("ShinL");
        new OpenQA.Selenium.Interactions.Actions(Browser.Driver)
            .MoveToLocation(at[0], at[1])
            .ClickAndHold()
            .MoveToLocation(at[0], at[1] + 6)
            .MoveToLocation(at[0], at[1] + 12)
            .Release()
            .Perform();
        Browser.Until("return eidolon.state().moves.length === 1 && !eidolon.busy()", "the knee moved");
        Assert.True(Number("eidolon.state().meanMillimetres") > measured * 1.3);
        Assert.Contains("fit worse", Browser.One("#verdict").Text, StringComparison.Ordinal);
        // Left and right are alike: both thighs grew.
        Assert.Equal(
            2,
            Convert.ToInt32(Browser.Js("return document.querySelectorAll('#bones .acc').length"), CultureInfo.InvariantCulture) / 2
        );

        Browser.Driver.FindElement(By.TagName("body")).SendKeys("u");
        Browser.Until("return eidolon.state().moves.length === 0 && !eidolon.busy()", "the move taken back");
        Assert.Equal(measured, Number("eidolon.state().meanMillimetres"), 2);
        Assert.False(Browser.One("#keep .btn-primary").Enabled);

        // An elbow far aside: the page says which joint turns instead.
        at = At("ForearmL");
        new OpenQA.Selenium.Interactions.Actions(Browser.Driver)
            .MoveToLocation(at[0], at[1])
            .ClickAndHold()
            .MoveToLocation(at[0], at[1] - 60)
            .Release()
            .Perform();
        Browser.Until("return eidolon.state().moves.length === 1 && !eidolon.busy()", "the elbow moved");
        Assert.Contains("the shoulder that turns", Browser.One("#said").Text, StringComparison.Ordinal);
        Click("#back");
        Browser.Until("return eidolon.state().moves.length === 0 && !eidolon.busy()", "the elbow back");

        at = At("Head");
        new OpenQA.Selenium.Interactions.Actions(Browser.Driver).MoveToLocation(at[0], at[1]).Click().Perform();
        Browser.Until("return /head chosen/.test(document.getElementById('chosen').textContent)", "the head chosen");
        Browser.Driver.FindElement(By.TagName("body")).SendKeys(Keys.ArrowUp);
        Browser.Until("return eidolon.state().moves.length === 1 && !eidolon.busy()", "the head moved");
        Click("#keep .btn-primary");
        Browser.Until("return location.pathname.endsWith('/performers') && document.body.dataset.ready === 'true'", "the performers");
        Assert.Contains("put right by hand: Head", Browser.One(".e-right").Text, StringComparison.Ordinal);
        using var db = Db();
        Assert.Equal(2, db.Subjects.AsNoTracking().Single(s => s.Id == ines).Version);
    }

    [Fact]
    public void A_hand_is_looked_at_closely_and_the_finding_leads_to_where_it_is_wrong()
    {
        var take = Take("HL_033_signal-wave_01").Id;
        Browser.Open($"/takes/{take}/solve");
        Click("[data-close='HandR']");
        Browser.Until("return eidolon.stage.near?.name === 'HandR'", "the right hand closely");
        Assert.InRange(Number("eidolon.stage.camera.position.distanceTo(eidolon.stage.controls.target)"), 0.3, 0.9);
        // The figure has fingers that move and a face whose mouth opens.
        Assert.True(Number("eidolon.stage.figures[0].info.joints.length") == 52);
        Assert.True(Number("eidolon.stage.figures[0].face.shapes.length") >= 2);
        // Somewhere in the take its mouth opens wide.
        Browser.Js(
            "const f = eidolon.stage.figures[0].face, jaw = eidolon.stage.figures[0].info.face.names.indexOf('AU26'); let k = 0; "
                + "while (k < eidolon.clock.count - 1 && f.weights[k * f.count + jaw] < 0.3) k++; eidolon.clock.set(k)"
        );
        Browser.Until(
            "return eidolon.stage.figures[0].skins.some(s => s.morphTargetInfluences?.[s.morphTargetDictionary.AU26] > 0.29)",
            "the jaw open"
        );
        Browser.Js("eidolon.clock.set(0)");
        Key("n");
        Browser.Until("return eidolon.clock.frame >= 1486 && eidolon.clock.frame <= 1522", "the frame of the finding");
        Click("[data-close='']");
        Browser.Until("return eidolon.stage.near === null", "the whole figure again");
    }
}
