using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core.Formats;
using Eidolon.Core.Skeletons;
using Eidolon.Screenshots;
using Eidolon.Storage.Blobs;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using OpenQA.Selenium;

namespace Eidolon.Browser.Tests;

/// <summary>The real interface in headless Chromium.</summary>
public sealed class BrowserTests : TakePage, IClassFixture<DemoStudio>
{
    private readonly string _downloads;

    public BrowserTests(DemoStudio studio)
        : this(studio, Directory.CreateTempSubdirectory("eidolon-downloads").FullName) { }

    private BrowserTests(DemoStudio studio, string downloads)
        : base(studio, downloads) => _downloads = downloads;

    public override void Dispose()
    {
        base.Dispose();
        Directory.Delete(_downloads, recursive: true);
    }

    /// <summary>Presses a button that starts a job and waits until its entry is in the Ledger and the page is back.</summary>
    private void Work(string css, string operation, LedgerOwner owner)
    {
        int Count()
        {
            return Entries(owner).Count(e => e.Entry.Operation == operation);
        }

        var before = Count();
        Change(() => Click(css), operation);
        Assert.Equal(before + 1, Count());
    }

    [Fact]
    public void A_job_that_ends_while_the_page_is_still_loading_is_shown_all_the_same()
    {
        // Motions come late, as on a slow connection: the job is done before the page listens.
        Browser.Driver.ExecuteCdpCommand(
            "Page.addScriptToEvaluateOnNewDocument",
            new Dictionary<string, object?>
            {
                ["source"] = """
                const now = window.fetch;
                window.fetch = async (...a) => {
                  if (String(a[0]).includes('/motion/')) await new Promise((r) => setTimeout(r, 4000));
                  return now(...a);
                };
                """,
            }
        );
        Browser.Open($"/takes/{Take("HL_030_gangplank-hop_01").Id}/retarget");
        Cast("Tobi", "Lamplighter");
    }

    // The long run has this beside the first journey, which goes the same way.
    [Fact, Trait(LongRun.Run, LongRun.Long)]
    public void A_take_goes_from_record_to_a_downloaded_file()
    {
        Browser.Open("/record");
        Browser.Js(
            """
            document.getElementById('setup').value = 'HL_077_first-light'; document.getElementById('number').value = '1';
            const s = document.getElementById('scene'); s.value = 'gangplank-hop';
            document.querySelector('[data-performer=Ines]').click(); document.querySelector('[data-performer=Tobi]').click();
            s.dispatchEvent(new Event('change'))
            """
        );
        Browser.Until("return document.querySelector('[data-check=\"body-Tobi\"]')?.className === 'good'", "Tobi to be found");
        Browser.Until("return Number(document.getElementById('live-count').textContent) > 40", "live markers");
        Click("#record");
        Browser.Until("return document.querySelector('#states .on')?.textContent === 'Recording'", "the recording to run");
        Browser.Until(
            "return parseFloat(document.getElementById('record-word').textContent.replace(/[^0-9.]/g, '')) > 4",
            "four seconds of recording"
        );
        Click("#record");
        Browser.Until("return location.pathname.endsWith('/label')", "the take's Label page");
        Browser.Ready();
        var take = Take("HL_077_first-light_01");
        Assert.True(take.FrameCount > 420 && take.State == TakeState.Kept);
        Work("form button[hx-vals*='\"label\"']", "label", LedgerOwner.Take(take.Id));
        var named = double.Parse(Browser.One(".e-big").Text.Split(' ')[0], System.Globalization.CultureInfo.InvariantCulture);
        Assert.True(named > 95, $"{named} % of {take.FrameCount} frames named: {Browser.One("#findings").Text}");
        Browser.Open($"/takes/{take.Id}/clean");
        Work("form button[hx-vals*='\"fill\"']", "fill", LedgerOwner.Take(take.Id));
        Browser.Open($"/takes/{take.Id}/solve");
        Work("form button[hx-vals*='\"solve\"']", "solve", LedgerOwner.Take(take.Id));
        Browser.Open($"/takes/{take.Id}/retarget");
        Cast("Tobi", "Stevedore");
        Assert.Equal(2L, Browser.Js("return eidolon.stage.figures.length"));
        Assert.Single(Entries(take.Name), e => e.Entry.Operation == "retarget");
        Browser.Open($"/takes/{take.Id}/assemble");
        var scene = LedgerOwner.Scene(
            int.Parse(new Uri(Browser.Driver.Url).Segments[2].Trim('/'), System.Globalization.CultureInfo.InvariantCulture)
        );
        Browser.Until("return !!window.eidolon.echoes", "the tracks");
        Change(
            () =>
                Browser.Js(
                    """
                    [...document.querySelectorAll('#clips .e-clip')].find(c => /HL_014_haul-rope_02/.test(c.textContent))
                        .dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true }))
                    """
                ),
            "the clips to be joined"
        );
        Assert.Equal(2, (Entries(scene).First(e => e.Entry.Operation == "clips").Entry.Parameters["clips"] as JsonArray)!.Count);
        Browser.Open($"/takes/{take.Id}/polish");
        Browser.Js("eidolon.clock.set(30)");
        Key("l");
        Browser.Js("eidolon.clock.set(60); const z = document.getElementById('kz'); z.value = '25'; z.dispatchEvent(new Event('input'))");
        Key("a");
        Browser.Js("eidolon.clock.set(90)");
        Key("l");
        Browser.Until("return document.querySelectorAll('#layer-keys li').length === 3", "three keys");
        Work("#keep-layer", "layer", scene);
        Browser.Open($"/takes/{take.Id}/export");
        Click("#hand-off");
        Browser.Until("return !!document.getElementById('receipt')", "the receipt");
        Assert.True(double.Parse(Browser.One("#read-back").Text.Split(' ')[0], System.Globalization.CultureInfo.InvariantCulture) < 0.01);
        Click("#download");
        var file = Path.Combine(_downloads, "stevedore_HL_077_first-light_01.glb");
        for (var end = DateTime.UtcNow.AddSeconds(Asking.PatienceSeconds); !File.Exists(file) && DateTime.UtcNow < end; )
        {
            Thread.Sleep(50);
        }

        var motion = MotionFiles.ReadMotion(file);
        Assert.Equal(30, motion.FrameRate);
        Assert.True(motion.FrameCount > 250, $"{motion.FrameCount} frames");
        // A live connection that ends because the page is left is no fault of the page.
        Assert.DoesNotContain(Browser.Problems(), p =>
            !p.Contains("hubs/live", StringComparison.Ordinal) && !p.Contains("WebSocket", StringComparison.Ordinal)
        );
    }

    [Fact]
    public void Labels_are_given_by_hand_and_taken_back()
    {
        var take = Take("HL_014_haul-rope_01");
        Browser.Open($"/takes/{take.Id}/label");
        var dot = (string)
            Browser.Js("return eidolon.scene.markers.find((m, i) => !m.named && eidolon.stage.markers.seen(eidolon.clock.frame, i)).name")!;
        Click("#names button[data-name=Crown]");
        const string Named = "return eidolon.scene.markers.some(m => m.name === 'Crown' && m.named)";
        // The name is on the screen before the server has answered, and stays when it has.
        Change(
            () =>
                Assert.True(
                    Browser.Js(
                        """
                        const i = eidolon.scene.markers.findIndex(m => m.name === arguments[0]);
                        eidolon.stage.dispatchEvent(new CustomEvent('pick', { detail: { marker: i } })); 
                        """ + Named,
                        dot
                    )
                        is true
                ),
            "the name"
        );
        Assert.True(Browser.Js(Named) is true);
        Assert.Contains("Pinned", Browser.One("#part-ledger").Text, StringComparison.Ordinal);
        // The next name is chosen by itself, and where the first one is worn is told on the figure.
        Assert.NotEqual("Crown", Browser.One("#names button.sel").GetAttribute("data-name"));
        Assert.True(Browser.Js("return document.querySelector('.e-namemap circle[data-name=Crown]').classList.contains('pinned')") is true);
        Change(() => Key("u"), "undo");
        Assert.True(Browser.Js(Named) is false);
    }

    [Fact]
    public void A_recipe_runs_over_three_takes()
    {
        var take = Take("HL_014_haul-rope_03");
        Browser.Open($"/takes/{take.Id}/clean");
        Work("#longest ~ .btn, form:has(#longest) .btn", "fill", LedgerOwner.Take(take.Id));
        Browser.Js(
            "document.querySelector('#recipe-of').open = true; document.querySelector('#save-recipe input[name=name]').value = 'Names and gaps'"
        );
        Click("#save-recipe button");
        Browser.Until("return location.pathname === '/recipes' && document.readyState === 'complete'", "the Recipes");
        Assert.Contains("label, fill gaps", Browser.One("#main").Text, StringComparison.Ordinal);
        var others = new[] { "HL_014_haul-rope_01", "HL_014_haul-rope_02", "HL_030_gangplank-hop_01" };
        foreach (var name in others)
        {
            Browser.Js("document.querySelector(`input[aria-label='Run on ${arguments[0]}']`).checked = true", name);
        }

        Click("#run-recipe");
        Browser.Until(
            """
            return document.querySelector('#day-table')?.dataset.busy === 'false'
            && [...document.querySelectorAll('#day-table td b')].filter(b => b.textContent === 'Done').length === 3
            """,
            "three takes done",
            120
        );
        Assert.Contains("Must fix", Browser.One("#day-table").Text, StringComparison.Ordinal);
        Assert.All(others, name => Assert.Equal("fill", Entries(name).MaxBy(e => e.Added)!.Entry.Operation));
        // A second one of the same name is refused in words.
        Browser.Open($"/takes/{take.Id}/clean");
        Browser.Js(
            "document.querySelector('#recipe-of').open = true; document.querySelector('#save-recipe input[name=name]').value = 'Names and gaps'"
        );
        Click("#save-recipe button");
        Browser.Until(
            "return /There is a Recipe/.test(document.querySelector('#save-recipe [role=alert]')?.textContent ?? '')",
            "a refusal"
        );
        // As it was for the tests that follow.
        var book = Server.Services.GetRequiredService<LedgerBook>();
        foreach (var id in others.SelectMany(n => new[] { n, n }).Append("HL_014_haul-rope_03").Select(n => Take(n).Id))
        {
            book.Keep(LedgerOwner.Take(id), new TakeBackEntry());
        }
    }

    [Fact]
    public void A_swap_is_found_and_exchanged_back()
    {
        var take = Take("HL_014_haul-rope_03");
        Browser.Open($"/takes/{take.Id}/label");
        Click("#correct summary");
        Browser.Js(
            """
            const f = document.querySelectorAll('#correct form')[1]; f.elements.a.value = 'KneeOutL'; f.elements.b.value = 'KneeInL';
            f.elements.from.value = 333;
            """
        );
        Work("#correct form:nth-of-type(2) button", "exchange", LedgerOwner.Take(take.Id));
        Browser.Open($"/takes/{take.Id}/clean");
        Click("#findings [data-kind=swap]");
        Browser.Until("return !document.getElementById('remedy-swap').classList.contains('e-hidden')", "the remedy");
        Assert.Equal(333L, Browser.Js("return Math.round(eidolon.clock.frame)"));
        Work("[data-exchange=end]", "exchange", LedgerOwner.Take(take.Id));
        Assert.Equal(0L, Browser.Js("return document.querySelectorAll('#findings [data-kind=swap]').length"));
        // As it was for the tests that follow.
        foreach (var _ in new[] { 1, 2 })
        {
            Change(() => Key("u"), "the entry taken back");
        }
    }

    [Fact]
    public void A_gap_is_proposed_dashed_and_filled_when_taken()
    {
        var take = Take("HL_014_haul-rope_03");
        Browser.Open($"/takes/{take.Id}/clean");
        Key("n");
        Browser.Until("return document.getElementById('remedy-said').textContent.startsWith('Proposed')", "a proposal");
        Assert.True(Browser.Js("return eidolon.stage.markers.proposal.geometry.attributes.position.count") is > 10L);
        // The lanes have come nearer, and the marker's curves show the gap and what would be put into it.
        Assert.True(
            Browser.Js(
                """
                return eidolon.lanes.to - eidolon.lanes.from < eidolon.clock.count / 2 && eidolon.lanes.from <= eidolon.clock.frame
                && eidolon.clock.frame <= eidolon.lanes.to
                """
            )
                is true
        );
        Assert.True(
            Browser.Js(
                """
                const c = eidolon.curves;
                return c.rows.length === 3 && c.proposals !== null && Number.isNaN(c.series[0][0].values[c.proposals.start])
                && !Number.isNaN(c.proposals.chosen[0])
                """
            )
                is true
        );
        Browser.Js("document.querySelector('.e-scrub').dispatchEvent(new MouseEvent('dblclick', { bubbles: true }))");
        Assert.True(Browser.Js("return eidolon.lanes.from === 0 && eidolon.lanes.to === eidolon.clock.count - 1") is true);
        Key("c");
        Assert.Equal("speed", Browser.Js("return eidolon.curves.kind"));
        Assert.True(
            Browser.Js(
                """
                const v = eidolon.curves.series[0][0].values.filter(x => !Number.isNaN(x));
                return v.length > 100 && Math.max(...v) < 20 && Math.max(...v) > 0.1
                """
            )
                is true
        );
        var gaps = Convert.ToInt32(Browser.Js("return eidolon.scene.lanes.reduce((n, l) => n + (l.gaps?.length ?? 0), 0)"));
        Work("#take-it", "fill", LedgerOwner.Take(take.Id));
        Assert.Equal(gaps - 1, Convert.ToInt32(Browser.Js("return eidolon.scene.lanes.reduce((n, l) => n + (l.gaps?.length ?? 0), 0)")));
    }

    [Fact]
    public void Time_runs_by_key_and_pointer_and_stays_in_its_range()
    {
        Browser.Open($"/takes/{Take("HL_009_lamp-walk_01").Id}/retarget");
        Key("ArrowRight");
        Assert.Equal(1L, Browser.Js("return eidolon.clock.frame"));
        Browser.Js("eidolon.clock.set(100)");
        Key("b");
        Browser.Js("eidolon.clock.set(130)");
        Browser.Js("document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'B', shiftKey: true, bubbles: true }))");
        Browser.Js("window.seen = []; eidolon.clock.addEventListener('frame', () => window.seen.push(eidolon.clock.frame))");
        Key(" ");
        Browser.Until(
            "return window.seen.length > 20 && window.seen.some((f, i) => i > 0 && f < window.seen[i - 1])",
            "the range to come round"
        );
        Key(" ");
        Assert.True(Browser.Js("return window.seen.every(f => f >= 100 && f <= 130)") is true);
        var box = Browser.One(".e-scrub");
        new OpenQA.Selenium.Interactions.Actions(Browser.Driver).MoveToElement(box).Click().Perform();
        Assert.InRange(Convert.ToDouble(Browser.Js("return eidolon.clock.frame / (eidolon.clock.count - 1)")), 0.45, 0.55);
    }

    [Fact]
    public void TheBrowsers_own_loader_reads_an_exported_file_the_same()
    {
        var take = Take("HL_030_gangplank-hop_02");
        Browser.Open($"/takes/{take.Id}/export");
        Browser.Js("document.querySelector('input[name=Rate][value=\"60\"]').checked = true");
        Click("#hand-off");
        Browser.Until("return !!document.getElementById('receipt')", "the receipt");
        var script = """
            const done = arguments[arguments.length - 1], url = document.getElementById('download').href;
            const { GLTFLoader } = await import('three/addons/loaders/GLTFLoader.js');
            const THREE = await import('three');
            const gltf = await new GLTFLoader().loadAsync(url);
            const mixer = new THREE.AnimationMixer(gltf.scene);
            mixer.clipAction(gltf.animations[0]).play();
            const out = {};
            for (const frame of [0, 120, 300]) {
              mixer.setTime(frame / 60);
              gltf.scene.updateMatrixWorld(true);
              out[frame] = {};
              gltf.scene.traverse(o => {
                if (o.isBone) out[frame][`${o.name} ${o.userData.follows ?? o.name}`] = o.getWorldPosition(new THREE.Vector3()).toArray();
              });
            }
            done(JSON.stringify(out));
            """;
        var json = (string)
            ((IJavaScriptExecutor)Browser.Driver).ExecuteAsyncScript($"(async () => {{ {script} }}).apply(null, arguments)")!;
        using var db = Db();
        var handOff = db
            .HandOffs.Where(h => db.Scenes.Any(x => x.Id == h.SceneId && x.TakeId == take.Id))
            .OrderByDescending(h => h.Id)
            .First();
        var bytes = Server.Services.GetRequiredService<BlobStore>().Read(db, handOff.BlobId);
        var motion = MotionFiles.ReadMotion(bytes, handOff.FileName);
        var world = ForwardKinematics.WorldPositions(motion);
        using var doc = JsonDocument.Parse(json);
        foreach (var frame in new[] { 0, 120, 300 })
        {
            foreach (var joint in doc.RootElement.GetProperty(frame.ToString()).EnumerateObject())
            {
                // A bone of the skin stands where the joint stands that it follows.
                var p = world[(frame * motion.Skeleton.Count) + motion.Skeleton.IndexOf(joint.Name.Split(' ')[1])];
                Assert.True(
                    Math.Abs(p.X - joint.Value[0].GetDouble())
                        + Math.Abs(p.Y - joint.Value[1].GetDouble())
                        + Math.Abs(p.Z - joint.Value[2].GetDouble())
                        < 5e-5,
                    joint.Name
                );
            }
        }
    }

    [Fact]
    public void No_page_has_a_serious_accessibility_violation_by_night_or_day()
    {
        const string Run = """
            const done = arguments[arguments.length - 1];
            axe.run({ resultTypes: ['violations'],
            ...arguments[0] }).then(r => done(JSON.stringify(r.violations.filter(v => v.impact === 'serious'
            || v.impact === 'critical').map(v => v.id + ': ' + v.nodes.slice(0, 3).map(n => n.html.slice(0, 140)).join(' | ')))))
            """;
        var axe = File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "assets", "axe.min.js"));
        var take = Take("HL_030_gangplank-hop_02").Id;
        var pages = new[]
        {
            "/",
            "/keys",
            "/record",
            "/record/ring",
            "/record/suit",
            "/record/performers",
            "/record/props",
            "/record/sets",
            "/record/import",
            "/library/characters",
            "/library/stage",
            "/recipes",
            $"/takes/{take}/video",
            $"/takes/{take}/slate",
        }.Concat(Studio.Services.StepThread.Names.Skip(1).Select(s => $"/takes/{take}/{s.ToLowerInvariant()}"));
        foreach (var page in pages)
        {
            Browser.Open($"{page}?theme=dark");
            // Injected by the debugger, so that the page's own strict policy stays as it is.
            Browser.Driver.ExecuteCdpCommand("Runtime.evaluate", new Dictionary<string, object?> { ["expression"] = axe });
            var night = (string)((IJavaScriptExecutor)Browser.Driver).ExecuteAsyncScript(Run, new Dictionary<string, object>())!;
            Assert.True(night == "[]", $"{page}: {night}");
            // By day only the colours are others.
            Click("[data-theme-toggle]");
            Assert.Equal("light", Browser.Js("return document.documentElement.dataset.bsTheme"));
            Browser.Until("return document.getAnimations().every(a => a.playState !== 'running')", "the colours to have changed");
            var day = (string)
                ((IJavaScriptExecutor)Browser.Driver).ExecuteAsyncScript(
                    Run,
                    new Dictionary<string, object> { ["runOnly"] = new[] { "color-contrast" } }
                )!;
            Assert.True(day == "[]", $"{page} by day: {day}");
        }
    }
}
