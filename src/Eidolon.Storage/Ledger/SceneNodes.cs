using System.Text.Json.Nodes;
using Eidolon.Core.Operations;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Ledger;

/// <summary>Scenes and their tracks: a track node with its clips, and layers over it, for each character or prop.</summary>
public static class SceneNodes
{
    /// <summary>The scene of a take; made when there is none, with every cast and every prop of the take as one clip.</summary>
    public static async Task<Scene> OfTake(EidolonDb db, Take take, CancellationToken cancel = default)
    {
        var known = await db.Scenes.FirstOrDefaultAsync(s => s.TakeId == take.Id, cancel);
        if (known is not null)
        {
            return known;
        }

        var scene = new Scene
        {
            ProductionId = take.ProductionId,
            ShootDayId = take.ShootDayId,
            TakeId = take.Id,
            Name = take.Name,
            Seconds = take.FrameCount / take.FrameRate,
            CreatedUtc = DateTime.UtcNow,
        };
        db.Scenes.Add(scene);
        await db.SaveChangesAsync(cancel);
        await Follow(db, take, scene, cancel);
        return scene;
    }

    /// <summary>Adds tracks for the casts and props of a scene's take that have none yet.</summary>
    public static async Task Follow(EidolonDb db, Take take, Scene scene, CancellationToken cancel = default)
    {
        var nodes = await db.Nodes.Where(n => n.TakeId == take.Id).OrderBy(n => n.Id).ToListAsync(cancel);
        var casts = nodes.Where(n => n.Kind == NodeKind.Cast).ToList();
        // A performer who plays nobody stands in the scene as themselves.
        var alone = nodes.Where(n => n.Kind == NodeKind.Solve && !casts.Exists(c => c.SubjectId == n.SubjectId));
        var wanted = casts
            .Select(n => (Subject: n.TargetId, Node: n.Id))
            .Concat(alone.Select(n => (Subject: n.SubjectId, Node: n.Id)))
            .Concat(nodes.Where(n => n.Kind == NodeKind.Places).Select(n => (Subject: n.SubjectId, Node: n.Id)));
        foreach (var (subject, node) in wanted)
        {
            await Track(db, scene, subject, [node], cancel);
        }
    }

    /// <summary>The first track of a character or prop; made of whole clips when it is missing. One that was taken off is not made again.</summary>
    public static async Task<NodeRow> Track(
        EidolonDb db,
        Scene scene,
        int subject,
        IReadOnlyList<int> clips,
        CancellationToken cancel = default
    )
    {
        var known = await Tracks(db, scene, subject).OrderBy(n => n.Id).FirstOrDefaultAsync(cancel);
        return known ?? await Another(db, scene, subject, clips, cancel);
    }

    private static IQueryable<NodeRow> Tracks(EidolonDb db, Scene scene, int subject) =>
        db.Nodes.IgnoreQueryFilters().Where(n => n.SceneId == scene.Id && n.Kind == NodeKind.Track && n.SubjectId == subject);

    /// <summary>One more track of a character or prop, made of whole clips.</summary>
    public static async Task<NodeRow> Another(
        EidolonDb db,
        Scene scene,
        int subject,
        IReadOnlyList<int> clips,
        CancellationToken cancel = default
    )
    {
        var taken = await Tracks(db, scene, subject).Select(n => n.Source).ToListAsync(cancel);
        var source = Enumerable.Range(1, taken.Count + 1).Select(NodeRow.TrackSource).First(s => !taken.Contains(s));
        var track = new NodeRow
        {
            SceneId = scene.Id,
            Kind = NodeKind.Track,
            SubjectId = subject,
            Source = source,
        };
        var list = new JsonArray([.. clips.Select(c => (JsonNode)new JsonObject { ["node"] = c, ["start"] = 0 })]);
        track.Entries.Add(
            new EntryRow
            {
                Operation = SceneOperations.Clips.Name,
                Version = SceneOperations.Clips.Version,
                Parameters = new JsonObject { ["clips"] = list, ["overlap"] = 36 }.ToJsonString(),
                Added = 1,
                CreatedUtc = DateTime.UtcNow,
            }
        );
        db.Nodes.Add(track);
        var prop = await db.Subjects.AnyAsync(s => s.Id == subject && s.Kind == SubjectKind.Prop, cancel);
        if (!prop)
        {
            db.Nodes.Add(
                new NodeRow
                {
                    SceneId = scene.Id,
                    Kind = NodeKind.Layers,
                    SubjectId = subject,
                    Source = source,
                }
            );
        }

        await db.SaveChangesAsync(cancel);
        return track;
    }
}
