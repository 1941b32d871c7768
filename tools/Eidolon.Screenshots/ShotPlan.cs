using System.Text.Json.Nodes;
using Eidolon.Core.Operations;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Screenshots;

/// <summary>Which pages are pictured, at which moment.</summary>
internal static class ShotPlan
{
    internal sealed record Shot(string Name, string Path, Action<Browser>? Act = null, int Width = 1280, int Height = 800);

    /// <summary>Carries one take through to a hand-off, so that every Step has something to show. Returns take ids by name.</summary>
    public static async Task<Dictionary<string, int>> Prepare(IServiceProvider services)
    {
        using var scope = services.CreateScope();
        var db = scope.ServiceProvider.GetRequiredService<EidolonDb>();
        var book = scope.ServiceProvider.GetRequiredService<LedgerBook>();
        var ids = await db.Takes.ToDictionaryAsync(t => t.Name, t => t.Id);
        await Scene(scope.ServiceProvider, db, book);
        await Crate(scope.ServiceProvider, db, book, ids["HL_021_crate-carry_01"]);
        Entries(book, LedgerOwner.Take(ids["HL_027_deck-crouch_01"]), new AddEntries("label", []));
        scope.ServiceProvider.GetRequiredService<TakeService>().Count(ids["HL_027_deck-crouch_01"]);
        // A file that tells its unit wrong waits to be brought in.
        var giant = Eidolon.Core.Skeletons.MotionEdits.Range(
            Eidolon.StandIns.Scenes.SceneCatalog.Perform("haul-rope", Eidolon.StandIns.People.HarbourCast.Tobi, 3).Actors[0].Motion,
            240,
            900
        );
        using var file = new MemoryStream();
        Eidolon.Core.Formats.Bvh.BvhWriter.Write(file, giant, 0.01, null);
        scope.ServiceProvider.GetRequiredService<ImportDesk>().Put(file.ToArray(), "quay-haul.bvh");
        return ids;
    }

    /// <summary>Quay scene A: the Stevedore hops the gangplank and then hauls; a layer turns his head; one hand-off is written.</summary>
    private static async Task Scene(IServiceProvider services, EidolonDb db, LedgerBook book)
    {
        var scene = await db.Scenes.FirstAsync(s => s.Name == "Quay scene A");
        var owner = LedgerOwner.Scene(scene.Id);
        var stevedore = await db.Subjects.FirstAsync(s => s.Name == "Stevedore");
        var nodes = await db.Nodes.Where(n => n.SceneId == scene.Id && n.SubjectId == stevedore.Id).ToListAsync();
        if (await db.Entries.AnyAsync(e => e.Operation == "layer" && nodes.Select(n => n.Id).Contains(e.NodeId)))
        {
            return;
        }

        int Cast(string take) =>
            db
                .Nodes.First(n =>
                    n.Kind == NodeKind.Cast && n.TargetId == stevedore.Id && db.Takes.Any(t => t.Id == n.TakeId && t.Name == take)
                )
                .Id;
        var clips = book.Read(owner).Find(nodes.First(n => n.Kind == NodeKind.Track).Id)!.Entries[0];
        Entries(
            book,
            owner,
            new EditEntry(
                clips.Id,
                SceneService.Parameters(
                    [new(Cast("HL_030_gangplank-hop_02"), 0, 940), new(Cast("HL_014_haul-rope_02"), 0, null)],
                    overlap: 48
                )
            ),
            new AddEntries(
                "layer",
                new JsonObject
                {
                    ["joint"] = "Head",
                    ["weight"] = 1,
                    ["keys"] = new JsonArray(
                        new JsonObject { ["frame"] = 250, ["release"] = true },
                        new JsonObject { ["frame"] = 330, ["y"] = 28 },
                        new JsonObject { ["frame"] = 460, ["y"] = 24 },
                        new JsonObject { ["frame"] = 540, ["release"] = true }
                    ),
                },
                nodes.First(n => n.Kind == NodeKind.Layers).Id
            )
        );
        await services
            .GetRequiredService<HandOffService>()
            .Write(
                scene.Id,
                new HandOffSettings
                {
                    Format = "glb",
                    Rate = 30,
                    Track = nodes.First(n => n.Kind == NodeKind.Track && n.SubjectId == stevedore.Id).Id,
                }
            );
    }

    /// <summary>Crate-carry through Retarget: Ines plays the Lamplighter, Tobi the Stevedore, and four hands are on the crate.</summary>
    private static async Task Crate(IServiceProvider services, EidolonDb db, LedgerBook book, int take)
    {
        var owner = LedgerOwner.Take(take);
        if (await db.Entries.AnyAsync(e => db.Nodes.Any(n => n.Id == e.NodeId && n.TakeId == take)))
        {
            return;
        }

        Entries(
            book,
            owner,
            new AddEntries("label", []),
            new AddEntries("fill", new JsonObject { ["method"] = "auto", ["longest"] = 60 }),
            new AddEntries("solve", [])
        );
        foreach (var (who, whom) in new[] { ("Ines", "Lamplighter"), ("Tobi", "Stevedore") })
        {
            var performer = await db.Subjects.FirstAsync(s => s.Name == who);
            var character = await db.Subjects.FirstAsync(s => s.Name == whom);
            var cast = await TakeNodes.Cast(db, take, performer.Id, character.Id);
            var proposed = CastProposal.For(services.GetRequiredService<TakeService>().Open(take), performer.Id);
            Entries(book, owner, new AddEntries("retarget", proposed, cast.Id));
        }

        services.GetRequiredService<TakeService>().Count(take);
    }

    private static void Entries(LedgerBook book, LedgerOwner owner, params LedgerChange[] changes)
    {
        foreach (var change in changes)
        {
            book.Keep(owner, change);
            book.BringUp(owner);
        }
    }

    public static IEnumerable<Shot> All(Dictionary<string, int> takes)
    {
        string At(string take, string step) => $"/takes/{takes[take]}/{step}";
        Action<Browser> Frame(int f, string? more = null) => b => b.Js($"eidolon.clock.set({f}); eidolon.stage.frameAll(); {more}");
        yield return new("board", "/");
        yield return new("record", "/record", b =>
        {
            b.Js(
                """
                document.getElementById('setup').value = 'HL_021_crate-carry'; document.getElementById('number').value = '2';
                document.getElementById('setup').dispatchEvent(new Event('input')); const s = document.getElementById('scene');
                s.value = 'crate-carry'; document.querySelector('[data-performer=Tobi]').click(); s.dispatchEvent(new Event('change'));
                document.querySelector('[data-show=both]').click(); document.querySelector('[data-prop=Crate]').click()
                """
            );
            b.Until(
                """
                return ['body-Ines', 'body-Tobi',
                'prop-Crate'].every(k => document.querySelector(`[data-check='${k}']`)?.className === 'good')
                && eidolon.stage.figures.length === 2
                """,
                "both performers and the crate",
                120
            );
            Thread.Sleep(4000);
        });
        yield return new("ring", "/record/ring", b =>
        {
            b.Js("document.getElementById('wave').click()");
            b.Until("return parseFloat(document.getElementById('seconds').textContent) > 24", "a wave", 120);
        });
        yield return new("import", "/record/import");
        yield return new(
            "label",
            At("HL_027_deck-crouch_01", "label"),
            Frame(700, "document.querySelectorAll('#names button')[12]?.click(); eidolon.stage.frameAll(3.4)")
        );
        yield return new("recipes", "/recipes");
        yield return new("clean", At("HL_009_lamp-walk_01", "clean"), b =>
        {
            b.Js("document.querySelector('#findings .e-finding[data-kind=gap]')?.click(); eidolon.stage.toggleTrail()");
            b.Until("return document.getElementById('remedy-said').textContent.startsWith('Proposed')", "a proposal");
            b.Js(
                "eidolon.stage.select(-1); eidolon.stage.frameAll(3.6); document.querySelector('#findings .e-finding[data-kind=gap]').click()"
            );
            b.Until("return document.getElementById('remedy-said').textContent.startsWith('Proposed')", "the proposal again");
        });
        yield return new("solve", At("HL_030_gangplank-hop_01", "solve"), Frame(320));
        yield return new("solve-suit", At("HL_040_suit-patrol_01", "solve"), Frame(0));
        yield return new("solve-video", At("HL_044_cam-mend-net_01", "solve"), b =>
        {
            b.Js("document.querySelector('.e-finding').click()");
            b.Until("return eidolon.films.selected !== null", "the point that is off");
        });
        yield return new("compare", At("HL_030_gangplank-hop_02", "compare") + "?lay=floor", b =>
        {
            b.Until("return !!window.eidolon?.about", "two solves");
            b.Js("eidolon.clock.set(eidolon.about.worstFrame)");
        });
        yield return new(
            "retarget",
            At("HL_009_lamp-walk_01", "retarget"),
            Frame(900, "document.querySelectorAll('#show button')[0].click(); document.querySelector('[data-choose=HandR]').focus()")
        );
        yield return new(
            "carry",
            At("HL_021_crate-carry_01", "retarget"),
            Frame(900, "document.querySelectorAll('#show button')[0].click(); eidolon.stage.frameAll(4)")
        );
        yield return new(
            "assemble",
            "/scenes/1/assemble",
            Frame(
                200,
                "const t = eidolon.lanes.lanes.find(l => l.kind === 'track'); eidolon.tracks.choose(t.node, 1); eidolon.echoes.toggle('echoes');"
                    + "eidolon.stage.frameAll(9)"
            )
        );
        yield return new("polish", "/scenes/1/polish", Frame(400));
        yield return new("export", "/scenes/1/export", Frame(330));
        yield return new("characters", "/library/characters/4");
        yield return new("hands", At("HL_033_signal-wave_01", "solve"), Frame(1450, "eidolon.stage.closeTo('HandR')"));
        yield return new("board-day", "/?theme=light");
    }
}
