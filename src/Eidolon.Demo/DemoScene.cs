using System.Text.Json.Nodes;
using Eidolon.Core.Operations;
using Eidolon.StandIns.Characters;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Demo;

/// <summary>A scene of the demo, half built: the Lamplighter walks her round while the Stevedore runs, turns the corner and comes down the steps.</summary>
internal sealed class DemoScene(EidolonDb db, SceneService scenes, LedgerBook book)
{
    /// <summary>The middles of three takes, frames.</summary>
    private static readonly (string Scene, int Start, int End)[] Run =
    [
        ("quay-run", 150, 400),
        ("corner-run", 165, 470),
        ("steps-down", 110, 900),
    ];

    public async Task Add(int production, ShootDay day, string name, CancellationToken cancel)
    {
        var scene = await scenes.Add(production, day.Id, name, cancel);
        foreach (var who in HarbourCharacters.Names)
        {
            var character = await db.Subjects.Where(s => s.Name == who).Select(s => s.Id).FirstAsync(cancel);
            var clips = scenes.ClipsFor(scenes.Open(scene.Id), character);
            if (clips.Count == 0)
            {
                continue;
            }

            var run = Joined(clips);
            var first = run.Count > 0 ? (int)run[0]!["node"]! : clips[0].Node;
            var track = await SceneNodes.Track(db, scene, character, [first], cancel);
            if (run.Count > 0)
            {
                var said = new JsonObject { ["clips"] = run, ["overlap"] = 36 };
                book.Keep(LedgerOwner.Scene(scene.Id), new AddEntries(SceneOperations.Clips.Name, said, track.Id), cancel: cancel);
            }
        }

        book.BringUp(LedgerOwner.Scene(scene.Id), cancel: cancel);
        scenes.Refresh(scenes.Open(scene.Id));
    }

    /// <summary>The run as clips of a track; none where one of its takes is missing.</summary>
    private static JsonArray Joined(IReadOnlyList<OpenScene.SceneClip> clips)
    {
        var found = Run.Select(r => (r, Clip: clips.FirstOrDefault(c => c.TakeName.Contains(r.Scene, StringComparison.Ordinal)))).ToList();
        return found.Exists(f => f.Clip is null)
            ? []
            :
            [
                .. found.Select(f =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["node"] = f.Clip!.Node,
                            ["start"] = f.r.Start,
                            ["end"] = f.r.End,
                            ["overlap"] = "best",
                        }
                ),
            ];
    }
}
