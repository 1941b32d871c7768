using System.Text.Json.Nodes;
using Eidolon.Core.Assembly;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.Extensions.DependencyInjection;
using Xunit.Abstractions;

namespace Eidolon.Browser.Tests.Journeys;

/// <summary>Journey 6: the Lamplighter's walk becomes a loop of eight cycles, travelling and in place.</summary>
public sealed class RoundAndRoundTests(DemoStudio studio, ITestOutputHelper output) : Journey(studio), IClassFixture<DemoStudio>
{
    [Fact]
    public void A_walk_goes_round_eight_times()
    {
        Browser.Open("/scenes/1/assemble");
        Browser.Js("[...document.querySelectorAll('.e-left a')].find(a => /Lamplighter/.test(a.textContent)).dataset.test = 'walker'");
        Press("[data-test=walker]");
        Browser.Until(
            "return document.body.dataset.ready === 'true' && /Lamplighter/.test(document.querySelector('.e-left li.sel')?.textContent)",
            "her track"
        );
        PressAndWait("#loop", "the loop");
        Browser.Until("return !!document.getElementById('looped')", "what came of it");
        var travelling = Loop();
        // Again, in place: the cycle of a row of cycles is the same one.
        Press("label:has(#in-place)");
        PressAndWait("#loop", "the loop in place");
        var standing = Loop();
        output.WriteLine($"{Actions} actions; {travelling.ToJsonString()}");
        foreach (var loop in new[] { travelling, standing })
        {
            Assert.InRange((double)loop["closingMillimetres"]!, 0, 1);
            Assert.InRange((double)loop["closingDegrees"]!, 0, .5);
            Assert.InRange((double)loop["strideMetres"]!, .6, 2);
        }

        var lane = (string)
            Browser.Js("return JSON.stringify(eidolon.lanes.lanes.find(l => /Lamplighter/.test(l.name) && l.blocks).blocks)")!;
        Assert.Equal(["cycle 1", "cycle 8"], JsonNode.Parse(lane)!.AsArray().Where((_, i) => i is 0 or 7).Select(b => (string)b![2]!));
        using var scope = Server.Services.CreateScope();
        var track = scope.ServiceProvider.GetRequiredService<SceneService>().Open(1).Tracks.Single(t => t.Subject.Name == "Lamplighter");
        Assert.Equal((8 * (int)standing["cycleFrames"]!) + 1, track.Motion!.FrameCount);
        Assert.True(Actions <= 8, $"{Actions} actions");
    }

    private JsonObject Loop()
    {
        using var scope = Server.Services.CreateScope();
        var track = scope.ServiceProvider.GetRequiredService<SceneService>().Open(1).Tracks.Single(t => t.Subject.Name == "Lamplighter");
        return (JsonObject)track.State.Last("loop")!.Report;
    }
}
