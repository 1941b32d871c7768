using System.Globalization;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Inertial;
using Eidolon.StandIns.Inertial;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.Extensions.DependencyInjection;
using Xunit.Abstractions;

namespace Eidolon.Browser.Tests.Journeys;

/// <summary>
/// Journey 3: the suit's walk round the block is brought in and solved by its own poses, a disturbed stretch is looked at, one contact put right,
/// the path closed where it began, and a character walks it.
/// </summary>
public sealed class PatrolTests(DemoStudio studio, ITestOutputHelper output) : Journey(studio), IClassFixture<DemoStudio>
{
    private readonly string _file = Path.Combine(Directory.CreateTempSubdirectory("eidolon-patrol").FullName, "round-the-sheds.csv");

    [Fact]
    public void The_walk_ends_where_it_began_on_a_character()
    {
        const double rate = 60;
        var walk = SceneCatalog.Perform("suit-patrol", HarbourCast.Ines, 3, rate).Actors[0];
        using (var s = File.Create(_file))
        {
            SuitCsv.Write(s, new SuitTake(rate, SuitSimulator.Measure(walk, 12)));
        }

        Browser.Open("/record/import");
        Browser.One("#files").SendKeys(_file);
        Press("#look");
        Browser.Until("return !!document.querySelector('#take') && document.body.dataset.ready === 'true'", "the file");
        Assert.Contains("17 sensors", Browser.One(".e-found").Text, StringComparison.Ordinal);
        Press("#take");
        Browser.Until("return /on the Board/.test(document.body.textContent)", "the take");
        var take = Take("round-the-sheds").Id;
        Browser.Open($"/takes/{take}/solve");
        PressAndWait("form button[hx-vals*='solve-suit']", "the motion");
        // What was disturbed, and when, is there to be looked at.
        Assert.Contains("Field disturbed", Browser.One(".e-right").Text, StringComparison.Ordinal);
        Browser.Until("return document.body.textContent.includes('field off by')", "the lane of the field");
        // One contact ends a little earlier than it was found.
        KeyPress("k");
        Browser.Until("return eidolon.lanes.chosenBlock !== null", "a contact chosen by key");
        Browser.Js("eidolon.clock.set(eidolon.lanes.chosenBlock[1] - 6)");
        Change(() => KeyPress("."), "an earlier end");
        PressAndWait("form button[hx-vals*='close-path']", "the path to be closed");
        Assert.Contains("Ends where it began", Browser.One(".e-right").Text, StringComparison.Ordinal);
        GoTo("retarget");
        Press("#cast-it");
        Browser.Until(
            """
            return document.body.dataset.ready === 'true' && location.search.includes('cast=')
            && eidolon.stage.figures.length === 2 && !document.querySelector('#job progress')
            """,
            "the character to move",
            120
        );
        var entries = Entries(LedgerOwner.Take(take));
        output.WriteLine(
            $"{Actions.ToString(CultureInfo.InvariantCulture)} actions: {string.Join(", ", entries.Select(e => e.Entry.Operation))}"
        );
        Assert.Equal(["contacts", "solve-suit", "close-path", "retarget"], entries.Select(e => e.Entry.Operation));
        using var scope = Server.Services.CreateScope();
        var open = scope.ServiceProvider.GetRequiredService<TakeService>().Open(take);
        var motion = open.Solved.Single().Motion!;
        Assert.True(PathClosing.Gap(motion) < 0.01, $"{PathClosing.Gap(motion):0.000} m");
        Assert.Single(open.Played);
        Assert.True(Actions <= 12, $"{Actions} actions");
    }
}
