using System.Text.Json.Nodes;
using Eidolon.Core.Operations;
using Eidolon.Storage.Blobs;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Upgrade;

/// <summary>Clips, layers, exports and films of the version before: the first three become the scene of their take.</summary>
internal sealed class SceneConversion(
    OldStudio old,
    EidolonDb db,
    BlobStore blobs,
    IReadOnlyDictionary<(SubjectKind, string), int> subjects
)
{
    public async Task Run(CancellationToken cancel)
    {
        await Films(cancel);
        var wanted = old.Rows(
                "SELECT DISTINCT TakeId FROM Ledger WHERE Operation IN ('assemble', 'layer') UNION SELECT DISTINCT TakeId FROM HandOffs"
            )
            .Select(r => r.Int("TakeId"))
            .ToList();
        foreach (var id in wanted)
        {
            var take = await db.Takes.AsNoTracking().FirstAsync(t => t.Id == id, cancel);
            var scene = await SceneNodes.OfTake(db, take, cancel);
            var rows = old.Rows($"SELECT * FROM Ledger WHERE TakeId = {id} ORDER BY Position").Select(StudioConversion.EntryOf).ToList();
            foreach (var sorted in OldLedger.Sort(rows, motionOnly: false).Where(s => s.Kind is NodeKind.Track or NodeKind.Layers))
            {
                await Entry(take, scene, sorted, cancel);
            }

            await HandOffs(take, scene, cancel);
        }
    }

    private async Task Entry(Take take, Scene scene, OldLedger.Sorted sorted, CancellationToken cancel)
    {
        var track = await TrackOf(take, scene, sorted.Character, cancel);
        if (track is null)
        {
            return;
        }

        if (sorted.Kind == NodeKind.Track)
        {
            var row = await db.Entries.FirstAsync(e => e.NodeId == track.Id && e.Operation == SceneOperations.Clips.Name, cancel);
            row.Parameters = (await Clips(take, track.SubjectId, sorted.Entry.Parameters, cancel)).ToJsonString();
            await db.SaveChangesAsync(cancel);
            return;
        }

        var layers = await db.Nodes.FirstAsync(
            n => n.SceneId == scene.Id && n.Kind == NodeKind.Layers && n.SubjectId == track.SubjectId,
            cancel
        );
        var at = await db.Entries.CountAsync(e => e.NodeId == layers.Id, cancel);
        db.Entries.Add(
            new EntryRow
            {
                NodeId = layers.Id,
                Position = at,
                Operation = sorted.Entry.Operation,
                Version = sorted.Entry.Version,
                Parameters = sorted.Entry.Parameters.ToJsonString(),
                On = sorted.Entry.On,
                Summary = sorted.Entry.Summary,
                CreatedUtc = sorted.Entry.CreatedUtc,
                Added = at + 1,
            }
        );
        await db.SaveChangesAsync(cancel);
    }

    /// <summary>The track of a character, or of the first performer where there was no character.</summary>
    private async Task<NodeRow?> TrackOf(Take take, Scene scene, string? character, CancellationToken cancel)
    {
        var subject =
            character is not null && subjects.TryGetValue((SubjectKind.Character, character), out var id)
                ? id
                : await db
                    .Parts.Where(p => p.TakeId == take.Id)
                    .OrderBy(p => p.Position)
                    .Select(p => p.SubjectId)
                    .FirstOrDefaultAsync(cancel);
        return await db.Nodes.FirstOrDefaultAsync(n => n.SceneId == scene.Id && n.Kind == NodeKind.Track && n.SubjectId == subject, cancel);
    }

    /// <summary>Clips named takes; now they name the casts they are cut from.</summary>
    private async Task<JsonObject> Clips(Take take, int character, JsonObject parameters, CancellationToken cancel)
    {
        var clips = new JsonArray();
        foreach (var clip in (parameters["clips"] as JsonArray ?? []).OfType<JsonObject>())
        {
            var name = (string?)clip["take"];
            var source = string.IsNullOrEmpty(name) ? take : await db.Takes.AsNoTracking().FirstOrDefaultAsync(t => t.Name == name, cancel);
            if (source is null)
            {
                continue;
            }

            var performer = await db
                .Parts.Where(p => p.TakeId == source.Id && p.Subject!.Kind == SubjectKind.Performer)
                .OrderBy(p => p.Position)
                .Select(p => p.SubjectId)
                .FirstOrDefaultAsync(cancel);
            var cast = await TakeNodes.Cast(db, source.Id, performer, character, cancel);
            if (!await db.Entries.AnyAsync(e => e.NodeId == cast.Id, cancel))
            {
                // It was put on this character on the fly.
                db.Entries.Add(
                    new EntryRow
                    {
                        NodeId = cast.Id,
                        Operation = RetargetOperation.Retarget.Name,
                        Version = RetargetOperation.Retarget.Version,
                        Parameters = "{}",
                        CreatedUtc = DateTime.UtcNow,
                    }
                );
                await db.SaveChangesAsync(cancel);
            }

            var start = clip["start"]?.DeepClone() ?? 0;
            clips.Add(
                (JsonNode)
                    new JsonObject
                    {
                        ["node"] = cast.Id,
                        ["start"] = start,
                        ["end"] = clip["end"]?.DeepClone(),
                    }
            );
        }

        return new JsonObject { ["clips"] = clips, ["overlap"] = parameters["overlap"]?.DeepClone() ?? 36 };
    }

    private async Task HandOffs(Take take, Scene scene, CancellationToken cancel)
    {
        var subject = await db
            .Nodes.Where(n => n.SceneId == scene.Id && n.Kind == NodeKind.Track)
            .OrderBy(n => n.Id)
            .Select(n => n.SubjectId)
            .FirstOrDefaultAsync(cancel);
        foreach (
            var (row, data) in old.Rows($"SELECT * FROM HandOffs WHERE TakeId = {take.Id}")
                .Select(r => (HandOffOf(r), r.Bytes("Data")))
                .ToList()
        )
        {
            (row.SceneId, row.SubjectId, row.Length) = (scene.Id, subject, data.Length);
            row.BlobId = (await blobs.Keep(db, data, cancel)).Id;
            db.HandOffs.Add(row);
        }

        await db.SaveChangesAsync(cancel);
    }

    private static HandOff HandOffOf(OldStudio.Row r) =>
        new()
        {
            FileName = r.Text("FileName"),
            Settings = r.Text("Settings"),
            ReadBackMillimetres = r.Number("ReadBackMillimetres"),
            Frames = r.Int("Frames"),
            FrameRate = r.Number("FrameRate"),
            Checksum = r.Text("Checksum"),
            CreatedUtc = r.Time("CreatedUtc"),
        };

    private async Task Films(CancellationToken cancel)
    {
        foreach (var (film, data) in old.Rows("SELECT * FROM Videos").Select(r => (FilmOf(r), r.Bytes("Data"))).ToList())
        {
            film.BlobId = (await blobs.Keep(db, data, cancel)).Id;
            db.Videos.Add(film);
        }

        await db.SaveChangesAsync(cancel);
    }

    private static WitnessVideo FilmOf(OldStudio.Row r) =>
        new()
        {
            TakeId = r.Int("TakeId"),
            FileName = r.Text("FileName"),
            ContentType = r.Text("ContentType"),
            OffsetSeconds = r.Number("OffsetSeconds"),
            TrimStart = r.Number("TrimStart"),
            TrimEnd = r.Number("TrimEnd"),
            Speed = r.Number("Speed"),
            Camera = r.Text("Camera"),
        };
}
