using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Bvh;
using Eidolon.Core.Formats.C3d;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.Storage;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Browser.Tests;

/// <summary>A shoot day through the real interface: calibrate, record, break, mend, make a prop, bring files in, put a film beside.</summary>
public sealed class StageBrowserTests : IClassFixture<DemoStudio>, IDisposable
{
    private readonly DemoStudio _studio;
    private readonly Screenshots.Browser _browser;
    private readonly string _folder = Directory.CreateTempSubdirectory("eidolon-files").FullName;

    public StageBrowserTests(DemoStudio studio)
    {
        _studio = studio;
        _browser = new Screenshots.Browser(studio.Address, scale: TakePage.Coarse, paints: false, shared: OneBrowser.Running);
    }

    public void Dispose()
    {
        _browser.Dispose();
        Directory.Delete(_folder, recursive: true);
    }

    private EidolonDb Db() => _studio.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();

    private void Click(string css) => _browser.Js("arguments[0].click()", _browser.One(css));

    private void Change(string id, string value) =>
        _browser.Js(
            "const e = document.getElementById(arguments[0]); e.value = arguments[1]; e.dispatchEvent(new Event('change'))",
            id,
            value
        );

    [Fact]
    public void The_ring_is_calibrated_from_the_page()
    {
        _browser.Open("/record/ring");
        int Rows()
        {
            using var db = Db();
            return db.Calibrations.Count();
        }

        var before = Rows();
        Click("#wave");
        _browser.Until("return !document.getElementById('enough').disabled", "every camera to have seen the wand");
        // Longer than the least: lenses want the whole picture.
        _browser.Until("return parseFloat(document.getElementById('seconds').textContent) > 20", "twenty seconds of waving");
        Click("#enough");
        _browser.Until("return /12 cameras/.test(document.getElementById('said').textContent)", "the cameras to be worked out");
        Assert.Equal(before + 1, Rows());
        _browser.Until("return !document.getElementById('ground').disabled", "the floor button");
        Click("#ground");
        _browser.Until("return /Floor and axes set/.test(document.getElementById('said').textContent)", "the floor to be set");
        using var after = Db();
        var row = after.Calibrations.OrderBy(c => c.Id).Last();
        Assert.InRange(row.ResidualPixels, 0.18, 0.22);
        Assert.NotNull(row.GroundUtc);
        var made = Core.Formats.Json.CameraRingJson.Read(System.Text.Encoding.UTF8.GetBytes(row.Cameras), "made");
        Assert.All(made.Cameras.Zip(HarbourRing.True().Cameras), p => Assert.True((p.First.Position - p.Second.Position).Length < 0.004));
    }

    [Fact]
    public void Two_performers_and_a_crate_are_recorded_through_a_cut_cable_and_circled()
    {
        _browser.Open("/record");
        Click("[data-performer=Tobi]");
        Change("scene", "crate-carry");
        _browser.Until(
            """
            return document.querySelector('[data-check="body-Ines"]')?.className === 'good'
            && document.querySelector('[data-check="body-Tobi"]')?.className === 'good'
            """,
            "both performers to be found",
            120
        );
        _browser.Until("return document.querySelector('[data-check=\"prop-Crate\"]')?.className === 'good'", "the crate to be seen");
        Click("[data-show=both]");
        _browser.Until("return eidolon.stage.figures.length === 2 && eidolon.stage.figures.every(f => f.group.visible)", "both figures");
        Click("[data-prop=Crate]");
        Change("setup", "HL_078_two");
        Change("number", "1");
        Click("#record");
        _browser.Until("return document.querySelector('#states .on')?.textContent === 'Recording'", "the recording to run");
        _browser.Until(
            "return parseFloat(document.getElementById('record-word').textContent.replace(/[^0-9.]/g, '')) > 1",
            "a second of recording"
        );
        Click("[data-device=ring] [data-cut]");
        _browser.Until("return document.querySelector('[data-device=ring]').classList.contains('off')", "the ring to be missed");
        Click("[data-device=ring] [data-cut]");
        _browser.Until(
            """
            return !document.querySelector('[data-device=ring]').classList.contains('off')
            && Number(document.querySelector('[data-device=ring] [data-lost]').textContent) > 0
            """,
            "the ring to be back and its loss counted"
        );
        Click("#record");
        _browser.Until("return location.pathname.endsWith('/label')", "the take's Label page");
        _browser.Ready();
        using var db = Db();
        var take = db.Takes.Include(t => t.Parts).ThenInclude(p => p.Subject).Single(t => t.Name == "HL_078_two_01");
        Assert.Equal(TakeState.Kept, take.State);
        Assert.Equal(["Ines", "Tobi", "Crate"], take.Parts.OrderBy(p => p.Position).Select(p => p.Subject!.Name));
        Assert.Contains(TakeDevice.Of(take), d => d.Stream == "witness-1");
        _browser.Open("/record");
        var item = $"#kept [data-take='{take.Id}'] [data-circle]";
        Click(item);
        _browser.Until($"return document.querySelector(\"{item}\").getAttribute('aria-pressed') === 'true'", "the circle");
        using var after = Db();
        Assert.True(after.Takes.Single(t => t.Id == take.Id).Circled);
    }

    [Fact]
    public void Markers_picked_on_the_stage_become_a_prop_whose_pivot_can_be_moved()
    {
        // As if the crate had no version yet: its markers have no names then.
        var crate = _studio.Ids("Crate")[0];
        Stand(crate, 0);
        _browser.Open("/record/props");
        _browser.Until(
            """
            return eidolon.stage.markers && eidolon.stage.markers.info.some((m, i) => !m.named && eidolon.stage.markers.seen(0, i)
            && eidolon.stage.markers.samples.data[i * 3 + 1] > 0.2)
            """,
            "markers on the Stage",
            120
        );
        // The crate stands alone on the floor in the scene's beginning: the lid's five markers are at one height.
        _browser.Until(
            """
            const d = eidolon.stage.markers.samples.data,
            s = [...Array(eidolon.view.slots).keys()].filter(i => Math.abs(d[i * 3 + 1] - 0.37) < 0.012 && Math.abs(d[i * 3]) < 0.3);
            if (s.length < 4) return false; window.lid = s; return true
            """,
            "the lid's markers",
            60
        );
        _browser.Js(
            "for (const i of window.lid.slice(0, 4)) eidolon.stage.dispatchEvent(new CustomEvent('pick', { detail: { marker: i } }))"
        );
        Assert.Equal("Make it of 4 markers", _browser.One("#make").Text);
        _browser.Js("document.getElementById('name').value = 'Lid'");
        Click("#make");
        _browser.Until("return location.search.startsWith('?prop=')", "the prop's page");
        _browser.Ready();
        using var made = Db();
        var lid = _studio.Ids("Lid")[0];
        Core.Markers.RigidBody Body() => Core.Formats.Json.RigidBodyJson.Read(SubjectLibrary.Current(made, lid).Version!.Body, "Lid");
        var body = Body();
        Assert.Equal(4, body.Markers.Count);
        _browser.Js("document.querySelector('#pivot [name=y]').value = '-180'; document.getElementById('tie').value = 'camera'");
        Click("#pivot button:not([type=button])");
        _browser.Until(
            "return document.readyState === 'complete' && document.getElementById('tie')?.value === 'camera' && document.body.dataset.ready === 'true'",
            "the pivot to be kept"
        );
        var moved = Body();
        Assert.All(body.Markers.Zip(moved.Markers), p => Assert.Equal(p.First.Y + 0.18f, p.Second.Y, 3));
        // A moved pivot is a version of its own; what was made with the one before can still be told.
        Assert.Equal([1, 2], made.SubjectVersions.Where(v => v.SubjectId == lid).OrderBy(v => v.Number).Select(v => v.Number));
        // The other tests of this studio carry the crate as it was.
        Stand(lid, 0);
        Stand(crate, 1);
    }

    /// <summary>Which version of a subject is the present one; 0 for none.</summary>
    private void Stand(int subject, int version)
    {
        using var db = Db();
        db.Subjects.Where(s => s.Id == subject).ExecuteUpdate(s => s.SetProperty(x => x.Version, version));
    }

    [Fact]
    public void Four_kinds_of_file_are_brought_in_and_a_wrong_unit_is_put_right()
    {
        var performance = SceneCatalog.Perform("haul-rope", HarbourCast.Tobi, 3);
        var markers = MarkerSimulator.Labelled(performance).Range(0, 240);
        var motion = MotionEdits.Range(performance.Actors[0].Motion, 0, 240);
        string P(string name) => Path.Combine(_folder, name);
        using (var s = File.Create(P("quay.c3d")))
        {
            C3dWriter.Write(s, new C3dDocument(markers));
        }

        using (var s = File.Create(P("points.csv")))
        {
            CsvMarkers.Write(s, markers);
        }

        using (var s = File.Create(P("figure.glb")))
        {
            GltfWriter.WriteSkeleton(s, motion);
        }

        // Written in millimetres, read as centimetres: ten times too tall.
        using (var s = File.Create(P("giant.bvh")))
        {
            BvhWriter.Write(s, motion, 0.001, null);
        }

        File.WriteAllText(P("broken.c3d"), "this is no C3D file");
        _browser.Open("/record/import");
        _browser
            .One("#files")
            .SendKeys(string.Join('\n', new[] { "quay.c3d", "points.csv", "figure.glb", "giant.bvh", "broken.c3d" }.Select(P)));
        Click("#look");
        _browser.Until(
            "return document.querySelectorAll('#waiting li').length === 4 && document.body.dataset.ready === 'true'",
            "four files to wait"
        );
        Assert.Contains("broken.c3d", _browser.One(".e-file-error").Text, StringComparison.Ordinal);
        _browser.Js("[...document.querySelectorAll('#waiting a')].find(a => a.textContent.includes('giant.bvh')).click()");
        _browser.Until(
            "return document.querySelector('#height') && Number(document.getElementById('height').textContent) > 10 && document.body.dataset.ready === 'true'",
            "a giant"
        );
        _browser.Js("const s = document.getElementById('scale'); s.value = [...s.options].find(o => o.textContent.startsWith('mm')).value");
        Click("#try");
        _browser.Until(
            """
            return document.querySelector('#height') && Math.abs(Number(document.getElementById('height').textContent) - 1.8) < 0.3
            && document.body.dataset.ready === 'true'
            """,
            "a person"
        );
        _browser.Js("document.getElementById('tall').value = '1.69'");
        Click("#try");
        _browser.Until(
            "return document.querySelector('#height')?.textContent === '1.69' && document.body.dataset.ready === 'true'",
            "a figure as tall as it was said to be"
        );
        Assert.True(_browser.Js("return document.querySelector('[name=other]').checkVisibility()") is true, "the factor is not shown");
        Assert.True(_browser.Js("return eidolon.stage.markers.count > 20") is true);
        Click("button[name=all][value=true]");
        _browser.Until("return /on the Board/.test(document.body.textContent)", "the files to be in");
        using var db = Db();
        var takes = db.Takes.Where(t => t.CreatedUtc > DateTime.UtcNow.AddMinutes(-30)).ToList();
        Assert.Contains(takes, t => t.Name == "quay" && t.FrameCount == 240);
        var giant = Assert.Single(takes, t => t.Name == "giant");
        _browser.Open($"/takes/{giant.Id}/retarget");
        Assert.True(
            Convert.ToDouble(
                _browser.Js("return eidolon.stage.figures[0].hips(eidolon.stage.camera.position.clone()).y"),
                System.Globalization.CultureInfo.InvariantCulture
            )
                is > 0.6
                    and < 1.2
        );
    }

    [Fact]
    public void A_film_is_put_beside_a_take_and_plays_in_step()
    {
        int take;
        using (var db = Db())
        {
            take = db.Takes.Single(t => t.Name == "HL_009_lamp-walk_01").Id;
        }

        _browser.Open($"/takes/{take}/video");
        // The browser itself makes a small film of a moving square.
        var film = (string)
            _browser.Driver.ExecuteAsyncScript(
                """
                const done = arguments[arguments.length - 1], c = document.createElement('canvas'); c.width = 160; c.height = 90;
                const g = c.getContext('2d'), r = new MediaRecorder(c.captureStream(30), { mimeType: 'video/webm' }), parts = []; let n = 0;
                const tick = setInterval(() => { g.fillStyle = '#203'; g.fillRect(0, 0, 160, 90); g.fillStyle = '#fc8'; g.fillRect(n++ * 2, 30, 20, 20); }, 33);
                r.ondataavailable = e => parts.push(e.data);
                r.onstop = async () => { clearInterval(tick);
                  const b = new Uint8Array(await new Blob(parts).arrayBuffer()); 
                  let s = ''; for (const x of b) s += String.fromCharCode(x); done(btoa(s)); };
                r.start(); setTimeout(() => r.stop(), 5000);
                """
            )!;
        var path = Path.Combine(_folder, "quay-side.webm");
        File.WriteAllBytes(path, Convert.FromBase64String(film));
        _browser.One("#file").SendKeys(path);
        Click(".e-film form button");
        _browser.Until("return document.getElementById('film')?.readyState >= 1 && document.body.dataset.ready === 'true'", "the film");
        _browser.Js("document.getElementById('offset').value = '0.5'");
        Click("#line-up .btn-primary");
        _browser.Until(
            """
            return document.getElementById('film')?.readyState >= 1 && document.getElementById('offset').value === '0.5'
            && document.body.dataset.ready === 'true'
            """,
            "the offset to be kept"
        );
        _browser.Js("eidolon.clock.set(120)");
        _browser.Until("return Math.abs(eidolon.film.currentTime - 1.5) < 0.05", "the film at the take's second");
        Click("#play");
        _browser.Until(
            "return eidolon.clock.frame > 150 && Math.abs(eidolon.film.currentTime - (0.5 + eidolon.clock.frame / 120)) < 0.3",
            "both to play in step"
        );
        // Joints are clicked in the film where a camera beside the stage would have seen them; then the figure stands over the film.
        Click("#play");
        _browser.Js(
            """
            const s = eidolon.stage, f = s.figures[0], film = eidolon.film, names = [...document.getElementById('joint').options].map(o => o.value);
            const eye = s.camera.clone(); eye.aspect = film.videoWidth / film.videoHeight; eye.updateProjectionMatrix();
            for (const frame of [60, 300]) {
              eidolon.clock.pause(); eidolon.clock.set(frame); f.update(frame);
              for (const j of [0, 4, 9, 14, 18, names.length - 1]) {
                const p = f.bones[j].getWorldPosition(s.camera.position.clone()).project(eye), box = film.getBoundingClientRect();
                document.getElementById('joint').value = names[j];
                film.dispatchEvent(new MouseEvent('click', { clientX: box.left + (p.x + 1) / 2 * box.width,
                  clientY: box.top + (1 - p.y) / 2 * box.height, bubbles: true }));
              }
            }
            """
        );
        Assert.Equal("12 of 6", _browser.One("#click-count").Text);
        Click("#locate");
        _browser.Until("return !document.getElementById('under').disabled", "the camera to be found");
        Assert.Matches("^[0-3]\\.[0-9] px$", _browser.One("#camera-rms").Text);
        Click("#under");
        _browser.Until(
            "return document.querySelector('#stage > video') !== null && eidolon.stage.scene.background === null",
            "the film under the figure"
        );
        Click("#beside");
        // Where the take is worked on it runs along in a corner, and goes by its key.
        _browser.Open($"/takes/{take}/retarget");
        _browser.Js("eidolon.clock.set(240)");
        _browser.Until(
            "return Math.abs(document.querySelector('#film-inset:not([hidden]) video').currentTime - 2.5) < 0.05",
            "the film beside it"
        );
        _browser.Js("document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'w', bubbles: true })); eidolon.clock.set(0)");
        Assert.True(_browser.Js("return document.getElementById('film-inset').hidden") is true);
        _browser.Js("document.getElementById('film-shown').click()");
        _browser.Until(
            "return Math.abs(document.querySelector('#film-inset video').currentTime - 0.5) < 0.05",
            "it shows where the take is now"
        );
        _browser.Open($"/takes/{take}/video");
        File.WriteAllText(Path.Combine(_folder, "letter.mp4"), "not a film at all");
        _browser.One("#file").SendKeys(Path.Combine(_folder, "letter.mp4"));
        Click(".e-film form button");
        _browser.Until(
            "return /neither an mp4 nor a webm/.test(document.querySelector('.e-file-error')?.textContent ?? '')",
            "a clear refusal"
        );
    }

    [Fact]
    public void Sets_and_performers_are_made_and_mistakes_are_told()
    {
        _browser.Open("/record/sets");
        _browser.Js("document.getElementById('fresh').value = 'Hands 10'");
        Click("form[action*='handler=New'] button");
        _browser.Until("return /Hands 10/.test(document.querySelector('.e-stage-sheet').textContent)", "the new set");
        _browser.Js("document.getElementById('mn').value = 'KnuckleL'; document.getElementById('seg').value = 'HandL'");
        Click("form[action*='handler=Add'] button");
        _browser.Until("return document.querySelectorAll('#markers tbody tr').length === 1", "one marker");
        Click("form[action*='handler=Mirror'] button");
        _browser.Until("return document.querySelectorAll('#markers tbody tr').length === 2", "its partner");
        Assert.Contains("KnuckleR", _browser.One("#markers").Text, StringComparison.Ordinal);
        _browser.Open("/record/performers");
        _browser.Js("document.getElementById('name').value = 'Ines'");
        Click("form[action*='handler=Add'] button");
        _browser.Until("return /already/.test(document.querySelector('[role=alert]')?.textContent ?? '')", "a refusal");
        _browser.Ready();
        _browser.Js("document.getElementById('name').value = 'Maro'; document.getElementById('height').value = '1.62'");
        Click("form[action*='handler=Add'] button");
        _browser.Until(
            "return /Maro/.test(document.querySelector('.e-left')?.textContent ?? '') && document.body.dataset.ready === 'true'",
            "the performer"
        );
        Assert.True(_browser.Js("return eidolon.stage.content.children.length > 0") is true);
    }
}
