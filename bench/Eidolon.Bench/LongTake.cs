using System.Diagnostics;
using System.Globalization;
using Eidolon.Core.Formats;
using Eidolon.Core.Markers;
using Eidolon.Demo;
using Eidolon.Screenshots;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Builder;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Bench;

/// <summary>A ten-minute take of two performers in the real interface: how long until it is open, how quick curves, a hand label and undo are.</summary>
internal static class LongTake
{
    private const int Frames = 72_000;

    /// <param name="data">A folder with the demo production.</param>
    public static async Task Run(string data)
    {
        var module = new DemoModule();
        var app = StudioHost.Build(new StudioOptions(data), module);
        await StudioHost.Prepare(app.Services, Console.WriteLine, module);
        await app.StartAsync();
        var id = await Store(app);
        using var browser = new Browser(app.Urls.First());
        // The runtime is warm, as in a studio that has been used for a minute.
        browser.Open("/takes/4/clean");
        foreach (var step in new[] { "clean", "label", "clean", "label" })
        {
            var clock = Stopwatch.StartNew();
            browser.Open($"/takes/{id}/{step}");
            var open = clock.Elapsed.TotalSeconds;
            browser.Until("return eidolon.state.complete === true", "the rest of the take", 120);
            Console.WriteLine(Text($"{step}: open {open:0.00} s, every sample there after {clock.Elapsed.TotalSeconds:0.00} s"));
        }

        Console.WriteLine(
            Text(
                $"curves of three axes, whole take in view: {Number(browser, "eidolon.stage.select(40); const c = document.getElementById('curves'); c.value = 'position'; c.dispatchEvent(new Event('change')); const t = performance.now(); for (let k = 0; k < 60; k++) eidolon.lanes.show(k * 20, 71999 - k * 20); return (performance.now() - t) / 60"):0.0} ms a frame"
            )
        );
        Console.WriteLine(
            Text(
                $"curves, a minute in view: {Number(browser, "const t = performance.now(); for (let k = 0; k < 120; k++) eidolon.lanes.show(k * 200, k * 200 + 7200); return (performance.now() - t) / 120"):0.0} ms a frame"
            )
        );
        // Here pictures are drawn in software; reading a pixel waits for one. A graphics card takes a few milliseconds for it.
        const string Picture = """
            eidolon.stage.dirty = true; eidolon.stage.draw(performance.now()); { const gl = eidolon.stage.renderer.getContext();
            gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4)); }
            """;
        Console.WriteLine(
            Text(
                $"one picture of the Stage, drawn in software: {Number(browser, $"const t = performance.now(); for (let k = 0; k < 5; k++) {{ {Picture} }} return (performance.now() - t) / 5"):0} ms"
            )
        );
        for (var k = 0; k < 5; k++)
        {
            browser.Js(
                """
                delete window.whole; delete window.shown; const dot = eidolon.scene.markers.findIndex(m => m.name.startsWith('Dot_'));
                const t = performance.now(); eidolon.state.addEventListener('changed', () => { window.whole = performance.now() - t;
                }, { once: true }); eidolon.labels.name(dot, eidolon.scene.markers[0].name); window.own = performance.now() - t; 
                """
                    + Picture
                    + " window.drawn = performance.now() - t;"
            );
            browser.Until("return window.whole !== undefined", "the server's answer");
            Console.WriteLine(
                Text(
                    $"hand label: {Number(browser, "return window.own"):0} ms until the page has it, {Number(browser, "return window.drawn"):0} ms with the picture; kept by the server after {Number(browser, "return window.whole"):0} ms"
                )
            );
            browser.Js(
                """
                delete window.whole; const t = performance.now();
                eidolon.state.addEventListener('samples', () => { window.own = performance.now() - t; }, { once: true });
                eidolon.state.addEventListener('changed', () => { window.whole = performance.now() - t; }, { once: true });
                eidolon.state.send('TakeBack', {});
                """
            );
            browser.Until("return window.whole !== undefined", "the parts of the page");
            Console.WriteLine(
                Text(
                    $"undo: {Number(browser, "return window.own"):0} ms until the page has it, {Number(browser, "return window.whole"):0} ms with all of its parts"
                )
            );
        }

        await app.StopAsync();
    }

    private static double Number(Browser browser, string script) => Convert.ToDouble(browser.Js(script), CultureInfo.InvariantCulture);

    private static string Text(FormattableString text) => FormattableString.Invariant(text);

    /// <summary>Crate-carry over and over, with the hidden samples of a ring; some stretches lost their names.</summary>
    private static async Task<int> Store(WebApplication app)
    {
        var scene = SceneCatalog.Perform("crate-carry", HarbourCast.Ines, 3);
        var seen = MarkerSimulator.Labelled(scene, new MarkerSimulator.Settings(MinimumCameras: 3));
        var take = new MarkerTake([.. seen.Names, "Dot_001", "Dot_002"], seen.FrameRate, Frames);
        for (var f = 0; f < Frames; f++)
        {
            seen.At(f % seen.FrameCount).CopyTo(take.At(f));
            foreach (var (column, from, to) in new[] { (0, 30_000, 32_000), (1, 50_000, 50_400) })
            {
                if (f >= from && f < to)
                {
                    (take[f, seen.MarkerCount + column], take[f, column]) = (take[f, column], MarkerTake.Hidden);
                }
            }
        }

        using var scope = app.Services.CreateScope();
        var db = scope.ServiceProvider.GetRequiredService<EidolonDb>();
        int[] who = [.. db.Subjects.Where(s => s.Kind == SubjectKind.Performer).OrderBy(s => s.Name).Select(s => s.Id)];
        var made = await scope
            .ServiceProvider.GetRequiredService<TakeImport>()
            .Add(new ImportedFile("HL_090_long.c3d", FileKind.C3d, take, null, "m", "Y"), 1, who);
        Console.WriteLine($"{Frames} frames, {take.MarkerCount} markers");
        return made.Id;
    }
}
