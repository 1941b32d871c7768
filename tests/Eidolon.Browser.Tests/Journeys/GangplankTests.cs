using System.Globalization;
using System.Text.Json.Nodes;
using Eidolon.Core.Skeletons;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.Extensions.DependencyInjection;
using OpenQA.Selenium.Interactions;
using Xunit.Abstractions;

namespace Eidolon.Browser.Tests.Journeys;

/// <summary>Journey 5: run, turn, run, steps down: four clips of four takes dragged on a track, trimmed, overlapped at good moments, met.</summary>
public sealed class GangplankTests(DemoStudio studio, ITestOutputHelper output) : Journey(studio), IClassFixture<DemoStudio>
{
    private const string Track = "eidolon.lanes.lanes.find(l => l.kind === 'track')";

    [Fact]
    public void Four_clips_become_one_run_over_the_quay_and_down_the_steps()
    {
        Browser.Open($"/takes/{Take("HL_051_quay-run_01").Id}/assemble");
        Browser.Ready();
        Browser.Until("return !!window.eidolon.tracks && !!window.eidolon.echoes", "the tracks");
        var scene = int.Parse(new Uri(Browser.Driver.Url).Segments[2].Trim('/'), CultureInfo.InvariantCulture);
        // The library is found by what a clip does.
        Browser.Until(
            "return [...document.querySelectorAll('[data-words]')].some(w => /turns/.test(w.textContent))",
            "words for the clips",
            60
        );
        Drop("HL_052_corner-run_01");
        Drop("HL_051_quay-run_01");
        Drop("HL_053_steps-down_01");
        Assert.Equal(4L, Browser.Js($"return {Track}.clips.length"));
        // Each clip keeps the middle of its run: edges are dragged along the track.
        Edge(0, "end", 400);
        Edge(1, "start", 165);
        Edge(1, "end", 480);
        Edge(2, "start", 160);
        Edge(2, "end", 430);
        Edge(3, "start", 110);
        // In flight the pelvis is what meets; at the first step it is a foot, with its height.
        Pick(1);
        Changed(() => Choose("#meet-joint", "the pelvis"));
        Pick(3);
        Changed(() => Choose("#meet-joint", "the left foot"));
        Changed(() => Choose("#meet-place", "with height, as on steps"));
        // A proposed moment is taken for the last overlap.
        Browser.Until("return document.querySelectorAll('#moments .e-moment').length > 0", "good moments", 30);
        Changed(() => Press("#moments .e-moment"));

        using var scope = Server.Services.CreateScope();
        var track = scope.ServiceProvider.GetRequiredService<SceneService>().Open(scene).Tracks.Single(t => t.Subject.Name == "Stevedore");
        var overlaps = track.State.Last("clips")!.Report["overlaps"]!.AsArray();
        output.WriteLine($"{Actions} actions; {overlaps.ToJsonString()}; {Setup(scene).ToJsonString()}");
        Assert.Equal(3, overlaps.Count);
        foreach (var o in overlaps)
        {
            Assert.InRange((double)o!["slideMillimetres"]!, 0, 2);
            Assert.InRange((double)o["accelerationPeakRatio"]!, 0, 1.5);
        }

        var motion = track.Motion!;
        Assert.True(motion.FrameCount > 700, $"{motion.FrameCount} frames");
        // It ends where the steps led: lower than it ran before them by their height, or as it met them.
        Assert.Equal("Pelvis", (string)Setup(scene)[1]!["meet"]!["joint"]!);
        Assert.Equal("full", (string)Setup(scene)[3]!["meet"]!["place"]!);
        // Taken back and brought again, as everything.
        Changed(() => Key("U"));
        Assert.NotEqual(motion.FrameCount, Frames(scene));
        Changed(() => Key("U"), shift: true);
        Assert.Equal(motion.FrameCount, Frames(scene));
        Assert.True(Actions <= 22, $"{Actions} actions");
        Assert.Empty(Browser.Problems());
    }

    [Fact]
    public void Clips_are_split_trimmed_moved_and_taken_off_at_the_playhead()
    {
        Browser.Open($"/takes/{Take("HL_054_long-watch_01").Id}/assemble");
        Browser.Ready();
        Browser.Until("return !!window.eidolon.tracks && !!window.eidolon.echoes", "the tracks");
        var scene = int.Parse(new Uri(Browser.Driver.Url).Segments[2].Trim('/'), CultureInfo.InvariantCulture);
        var whole = Frames(scene);
        Pick(0);
        // Split in the middle: two clips, and the very motion there was.
        Browser.Js("eidolon.clock.set(500)");
        Changed(() => Key("s"));
        Assert.Equal((2L, whole), (Browser.Js($"return {Track}.clips.length"), Frames(scene)));
        // The second half begins later; then it is moved before the first.
        Pick(1);
        Browser.Js("eidolon.clock.set(700)");
        Changed(() => Key("["));
        Assert.InRange(Frames(scene), whole - 202, whole - 198);
        Drag(1, .5, -600);
        Assert.Equal(700, (int)Setup(scene)[0]!["start"]!);
        Pick(1);
        Changed(() => Press("[data-clip-do=off]"));
        Assert.Equal(1L, Browser.Js($"return {Track}.clips.length"));
        // The last one stays, and says why.
        Pick(0);
        Key("Delete");
        Browser.Until("return /one clip at least/.test(document.querySelector('.e-toast')?.textContent)", "the reason");
        // Echoes and trails, and the plan from above.
        Key("e");
        Assert.True(
            (bool)
                Browser.Js(
                    "return eidolon.echoes.group.visible && eidolon.echoes.group.children[0].geometry.attributes.position.count > 500"
                )!
        );
        Browser.Js(
            "const c = document.getElementById('above'), r = c.getBoundingClientRect(); const p = eidolon.echoes.paths[0].path[20];"
                + "const [x, y] = eidolon.echoes.frame().at(p[1], p[3]); c.dispatchEvent(new MouseEvent('click', { clientX: r.left + x, clientY: r.top + y }))"
        );
        Assert.InRange(Convert.ToInt32(Browser.Js("return eidolon.clock.frame"), CultureInfo.InvariantCulture), 1, 400);
        Assert.Empty(Browser.Problems());
    }

    private JsonArray Setup(int scene)
    {
        using var scope = Server.Services.CreateScope();
        var open = scope.ServiceProvider.GetRequiredService<SceneService>().Open(scene);
        return (JsonArray)open.Tracks.Single(t => t.Subject.Name == "Stevedore").SetUp!["clips"]!;
    }

    private int Frames(int scene)
    {
        using var scope = Server.Services.CreateScope();
        return scope
            .ServiceProvider.GetRequiredService<SceneService>()
            .Open(scene)
            .Tracks.Single(t => t.Subject.Name == "Stevedore")
            .Motion!.FrameCount;
    }

    private void Changed(Action act, bool shift = false)
    {
        if (shift)
        {
            Change(
                () => Browser.Js("document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'U', shiftKey: true, bubbles: true }))"),
                "the change"
            );
        }
        else
        {
            Change(act, "the change");
        }

        Browser.Ready();
        Browser.Until("return !!window.eidolon?.tracks && !!window.eidolon?.echoes", "the tracks");
    }

    /// <summary>A clip from the library onto the end of the track, as the browser's own drag and drop tells it.</summary>
    private void Drop(string take) =>
        Changed(() =>
        {
            Did();
            Browser.Js(
                """
                const card = [...document.querySelectorAll('#clips .e-clip')].find(c => c.textContent.includes(arguments[0])), data = new DataTransfer(),
                  scrub = document.querySelector('.e-scrub'), row = document.querySelector('.e-lane').getBoundingClientRect(),
                  at = { clientX: row.right - 4, clientY: row.top + 20, bubbles: true, cancelable: true, dataTransfer: data };
                card.dispatchEvent(new DragEvent('dragstart', { bubbles: true, dataTransfer: data }));
                scrub.dispatchEvent(new DragEvent('dragover', at));
                scrub.dispatchEvent(new DragEvent('drop', at));
                """,
                take
            );
        });

    /// <summary>An edge of a clip dragged until it shows a frame of its own take.</summary>
    private void Edge(int clip, string side, int frame)
    {
        Pick(clip);
        var at = side == "end" ? 1 : 0;
        var by = Convert.ToDouble(
            Browser.Js(
                $"const l = {Track}, c = eidolon.tracks.definite(l)[{clip}];"
                    + $" return {frame} - ({(side == "end" ? $"c.end ?? l.lengths[{clip}]" : "c.start ?? 0")})"
            ),
            CultureInfo.InvariantCulture
        );
        Browser.Js("document.getElementById('snap').checked = false");
        Drag(clip, at, by);
        Assert.InRange(
            Convert.ToInt32(Browser.Js($"return {Track}.clips[{clip}].{side}"), CultureInfo.InvariantCulture),
            frame - 6,
            frame + 6
        );
    }

    /// <summary>A drag by the pointer from a share of a clip's length, by so many frames.</summary>
    private void Drag(int clip, double share, double frames) =>
        Changed(() =>
        {
            Did();
            var box =
                (IReadOnlyDictionary<string, object>)
                    Browser.Js(
                        $$"""
                    const l = {{Track}}, scrub = document.querySelector('.e-scrub').getBoundingClientRect(), lanes = eidolon.lanes,
                      row = document.querySelector('.e-lane').getBoundingClientRect(), [a, b] = l.blocks[{{clip}}],
                      x = (f) => scrub.left + ((f - lanes.from) / (lanes.to - lanes.from)) * scrub.width, f = a + (b - a) * {{share.ToString(
                        CultureInfo.InvariantCulture
                    )}};
                    return { x: x(f), y: row.top + row.height / 2, to: x(f + {{frames.ToString(CultureInfo.InvariantCulture)}}) };
                    """
                    )!;
            int At(string key) => (int)Math.Round(Convert.ToDouble(box[key], CultureInfo.InvariantCulture));
            new Actions(Browser.Driver)
                .MoveToLocation(At("x"), At("y"))
                .ClickAndHold()
                .MoveToLocation((At("x") + At("to")) / 2, At("y"))
                .MoveToLocation(At("to"), At("y"))
                .Release()
                .Perform();
        });

    /// <summary>A click on a clip in its lane.</summary>
    private void Pick(int clip)
    {
        Did();
        Browser.Js($"eidolon.tracks.choose({Track}.node, {clip})");
    }
}
