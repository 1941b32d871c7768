using System.Globalization;
using System.Text.RegularExpressions;
using Eidolon.Core.Operations;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.Extensions.DependencyInjection;
using Xunit.Abstractions;

namespace Eidolon.Browser.Tests.Journeys;

/// <summary>Journey 9: a character whose rig says nothing is brought in, prepared and kept; the rope is hauled with it, and the report printed.</summary>
public sealed class SilentRigTests(DemoStudio studio, ITestOutputHelper output) : Journey(studio), IClassFixture<DemoStudio>
{
    private const string Name = "HL_014_haul-rope_02";

    [Fact]
    public void The_Harbour_Master_is_made_ready_and_hauls_the_rope()
    {
        var file = Path.Combine(Path.GetTempPath(), $"{Guid.NewGuid():N}", "harbour-master.glb");
        Directory.CreateDirectory(Path.GetDirectoryName(file)!);
        File.WriteAllBytes(file, HarbourCharacters.Build("Harbour Master"));
        Browser.Open("/library/characters");
        Browser.One("#new-file").SendKeys(file);
        Did();
        Type("#new-name", "Harbour Master");
        Press("#bring-character");
        Browser.Until(
            "return document.body.dataset.page === 'prepare' || !!document.querySelector('[data-page=prepare]')",
            "the character's own page"
        );
        Browser.Ready();
        Assert.Equal("Cannot fit", Browser.One(".e-verdicts .on b").Text);
        Tried("[data-unit=inches]");
        Tried("[data-remedy='ArmL,ArmR']");
        Tried("[data-remedy=TurnToFace]");
        Assert.Equal("Ready", Browser.One(".e-verdicts .on b").Text);
        // One role is put right: the middle of the spine; then the right side is said anew as the left one's mirror.
        Knob(".e-rolefig [data-role=SpineMid]");
        var spine = (string)Browser.Js("return document.querySelector('.e-hierarchy [data-role=SpineUpper]').dataset.joint")!;
        Steps(() => Knob($".e-hierarchy [data-joint='{spine}']"));
        Steps(() => KeyPress("m"));
        Steps(() => Press("#keep-it"));
        Assert.True((bool)Browser.Js("return !!document.getElementById('unlock')")!, "it is locked");
        var character = Character();
        var rig = Server.Services.GetRequiredService<SubjectLibrary>().Rig(character.Id)!;
        var truth = HarbourCharacters.Figure("Harbour Master").Skeleton.Joints.ToDictionary(j => j.Name, j => j.Role);
        Assert.Equal(BodyRole.SpineMid, rig[rig.IndexOf(spine)].Role);
        Assert.All(rig.Joints.Where(j => j.Role is { } r && !BodyRoles.Spine.Contains(r)), j => Assert.Equal(truth[j.Name], j.Role));

        // Onto a take.
        Browser.Open($"/takes/{Take(Name).Id}/retarget");
        Browser.Ready();
        Did();
        var figures = (long)Browser.Js("return eidolon.stage.figures.length")!;
        Assert.Equal("Harbour Master", Browser.Js("return document.getElementById('whom').selectedOptions[0].text"));
        Press("#cast-it");
        Browser.Until(
            $$"""
            return document.body.dataset.ready === 'true' && location.search.includes('cast=') && eidolon.stage.figures.length === {{figures
                + 1}}
            && !document.querySelector('#job progress')
            """,
            "the Harbour Master to move",
            120
        );
        Held();
        PressAndWait("label:has([name=travel][value=footprints])", "the performer's footprints");
        Held();
        Change(
            () =>
            {
                Did();
                Browser.One("[name='place.HandR']").SendKeys(OpenQA.Selenium.Keys.End);
            },
            "both hands held"
        );
        if ((bool)Browser.Js("return !!document.querySelector('form button[hx-vals*=\"push-out\"]')")!)
        {
            PressAndWait("form button[hx-vals*='\"push-out\"']", "what clips to be pushed out");
        }

        Press("#report");
        Browser.Until("return location.pathname.endsWith('/report') && document.body.dataset.ready === 'true'", "the report", 60);
        Assert.True((long)Browser.Js("return document.querySelectorAll('#shots img').length")! >= 3, "pictures");
        Browser.Js("window.print = () => { window.printed = true }");
        Press("#print");
        Assert.True((bool)Browser.Js("return window.printed === true")!);

        using var scope = Server.Services.CreateScope();
        var open = scope.ServiceProvider.GetRequiredService<TakeService>().Open(Take(Name).Id);
        var cast = open.Casts.Single(c => c.Node.TargetId == character.Id);
        var setup = RetargetOperation.SetupFrom(cast.State.Node.Entries.Last(e => e.Operation == "retarget").Parameters);
        var report = cast.State.Last("retarget")!.Report;
        var drift = HoldDrift.Of(open.Performers[0].Motion!, cast.Motion!, setup, (float)(double)report["groundMetres"]!);
        var worst = new[] { BodyRole.HandL, BodyRole.HandR }.Max(h => drift[h].Max());
        // What is not held is said: an arm that is too short, or a hand that the body was in the way of.
        var said = report["warnings"]!.ToJsonString();
        var freed = (double?)cast.State.Last("push-out")?.Report["handMovedMillimetres"] ?? 0;
        Assert.Contains(cast.Name, Browser.One("main").Text, StringComparison.Ordinal);
        var left = (cast.State.Last("push-out")?.Report ?? report)["clipping"]!.AsArray().Count;
        output.WriteLine($"{Actions} actions; hands {worst:0.00} mm; clipping frames left {left}; {said}");
        var owed = Regex.Matches(said, @"up to (\d+) mm short").Select(m => double.Parse(m.Groups[1].Value, CultureInfo.InvariantCulture));
        Assert.True(worst <= .5 + freed + owed.DefaultIfEmpty(0).Max(), $"{worst:0.00} mm, pushed {freed:0.0}, said {said}");
        Assert.Equal(0, left);
        Assert.True(Actions <= 22, $"{Actions} actions");
        Assert.Empty(Browser.Problems());
    }

    private Subject Character()
    {
        using var db = Db();
        return db.Subjects.Single(s => s.Name == "Harbour Master");
    }

    private void Held() =>
        Browser.Until("return !!window.eidolon.hold && window.eidolon.hold.connection.state === 'Connected'", "the Hold controls");

    /// <summary>A remedy, and the page with what it proposes.</summary>
    private void Tried(string css) => Steps(() => Press(css));

    private void Steps(Action act)
    {
        const string State = "document.getElementById('part-tree').dataset.state";
        var before = (string)Browser.Js($"return {State}")!;
        act();
        Browser.Until($"return {State} !== '{before}' && document.body.dataset.ready === 'true'", "the change to be shown", 60);
    }

    /// <summary>A click on a drawn knot, which has no button's box.</summary>
    private void Knob(string css)
    {
        Did();
        Browser.Js("arguments[0].dispatchEvent(new MouseEvent('click', { bubbles: true }))", Browser.One(css));
    }
}
