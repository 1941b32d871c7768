using System.Text.Json.Nodes;
using Eidolon.Core.Operations;
using Eidolon.Storage;
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
        var ids = await db.Takes.ToDictionaryAsync(t => t.Name, t => t.Id);
        var takes = scope.ServiceProvider.GetRequiredService<TakeService>();
        var hop = ids["HL_030_gangplank-hop_02"];
        if (!await db.Ledger.AnyAsync(l => l.TakeId == hop && l.Operation == "assemble"))
        {
            await takes.Keep(
                hop,
                MotionOperations.Assemble.Entry(
                    new JsonObject
                    {
                        ["overlap"] = 48,
                        ["clips"] = new JsonArray(
                            new JsonObject { ["start"] = 0, ["end"] = 940 },
                            new JsonObject { ["take"] = "HL_014_haul-rope_02", ["start"] = 0 }
                        ),
                    }
                )
            );
            await takes.Keep(
                hop,
                MotionOperations.Layer.Entry(
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
                    }
                )
            );
            await scope.ServiceProvider.GetRequiredService<HandOffService>().Write(hop, new HandOffSettings { Format = "glb", Rate = 30 });
        }

        var deck = ids["HL_027_deck-crouch_01"];
        if (!await db.Ledger.AnyAsync(l => l.TakeId == deck))
        {
            await takes.Keep(deck, LabelOperations.Label.Entry());
        }

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

    public static IEnumerable<Shot> All(Dictionary<string, int> takes)
    {
        string At(string take, string step) => $"/takes/{takes[take]}/{step}";
        Action<Browser> Frame(int f, string? more = null) => b => b.Js($"eidolon.clock.set({f}); eidolon.stage.frameAll(); {more}");
        yield return new("board", "/");
        yield return new("record", "/record", b =>
        {
            b.Js(
                "document.getElementById('setup').value = 'HL_021_crate-carry'; document.getElementById('number').value = '2'; document.getElementById('setup').dispatchEvent(new Event('input')); const s = document.getElementById('scene'); s.value = 'crate-carry'; document.querySelector('[data-performer=Tobi]').click(); s.dispatchEvent(new Event('change')); document.querySelector('[data-show=both]').click(); document.querySelector('[data-prop=Crate]').click()"
            );
            b.Until(
                "return ['body-Ines', 'body-Tobi', 'prop-Crate'].every(k => document.querySelector(`[data-check='${k}']`)?.className === 'good') && eidolon.stage.figures.length === 2",
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
        yield return new("retarget", At("HL_014_haul-rope_02", "retarget"), Frame(620, "eidolon.stage.frameAll(5.2)"));
        yield return new("assemble", At("HL_030_gangplank-hop_02", "assemble"), Frame(300));
        yield return new("polish", At("HL_030_gangplank-hop_02", "polish"), Frame(400));
        yield return new("export", At("HL_030_gangplank-hop_02", "export"), Frame(330));
        yield return new("retarget-walk", At("HL_009_lamp-walk_01", "retarget"), Frame(560, "eidolon.stage.frameAll(5.2)"));
        yield return new("board-day", "/?theme=light");
    }
}
