using System.Numerics;
using System.Runtime.InteropServices;
using System.Text;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Labelling;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Storage.Blobs;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Storage.Samples;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Upgrade;

/// <summary>Copies what was recorded: streams and their pieces, motions that were brought in, and the poses performers were measured in.</summary>
internal sealed class SampleConversion(OldStudio old, EidolonDb db)
{
    public async Task Run(string oldPath, CancellationToken cancel)
    {
        await Chunks(oldPath, cancel);
        await Motions(cancel);
        await Poses(cancel);
    }

    /// <summary>Streams of every take, then all chunks at once within the database: they may be many gigabytes.</summary>
    private async Task Chunks(string oldPath, CancellationToken cancel)
    {
        const string Sql = """
            SELECT c.TakeId, c.Stream, sum(c.FrameCount) AS Frames, t.FrameRate, t.Channels
            FROM Chunks c JOIN Takes t ON t.Id = c.TakeId WHERE c.Stream <> 'motion' GROUP BY c.TakeId, c.Stream
            """;
        foreach (var r in old.Rows(Sql))
        {
            var name = r.Text("Stream");
            db.Streams.Add(
                new SampleStream
                {
                    TakeId = r.Int("TakeId"),
                    Name = name,
                    Kind = name switch
                    {
                        StreamNames.Ring => StreamKind.Centroids,
                        StreamNames.Markers => StreamKind.Markers,
                        _ => StreamKind.Packets,
                    },
                    FrameRate = r.Number("FrameRate"),
                    FrameCount = r.Int("Frames"),
                    Channels = name == StreamNames.Markers ? r.Text("Channels") : string.Empty,
                }
            );
        }

        await db.SaveChangesAsync(cancel);
        db.ChangeTracker.Clear();
        await db.Database.OpenConnectionAsync(cancel);
        await db.Database.ExecuteSqlAsync($"ATTACH DATABASE {oldPath} AS before", cancel);
        await db.Database.ExecuteSqlRawAsync(
            """
            INSERT INTO Chunks (StreamId, FirstFrame, FrameCount, Hash, Data)
            SELECT s.Id, c.FirstFrame, c.FrameCount, c.Hash, c.Data
            FROM before.Chunks c JOIN Streams s ON s.TakeId = c.TakeId AND s.Name = c.Stream
            """,
            cancel
        );
        await db.Database.ExecuteSqlRawAsync(
            """
            INSERT INTO Ignored (Id, TakeId, Kind, Subject, Start, End, Reason, CreatedUtc)
            SELECT Id, TakeId, Kind, Subject, Start, End, Reason, CreatedUtc FROM before.Ignored
            """,
            cancel
        );
        await db.Database.ExecuteSqlRawAsync("DETACH DATABASE before", cancel);
    }

    private async Task Motions(CancellationToken cancel)
    {
        foreach (
            var (take, data) in old.All("SELECT TakeId, Data FROM Chunks WHERE Stream = 'motion'", r => (r.Int("TakeId"), r.Bytes("Data")))
        )
        {
            var who = await db
                .Parts.Where(p => p.TakeId == take)
                .OrderBy(p => p.Position)
                .Select(p => p.SubjectId)
                .FirstOrDefaultAsync(cancel);
            await new SampleStore(db).WriteMotion(take, who, new MotionValue(OldMotion.Read(data)), cancel);
        }
    }

    /// <summary>What taught a performer's shape was a take; now the poses stand with the measurement itself.</summary>
    private async Task Poses(CancellationToken cancel)
    {
        foreach (
            var version in await db.SubjectVersions.Where(v => v.ReferenceTakeId != null && v.Body != string.Empty).ToListAsync(cancel)
        )
        {
            var stream = await db.Streams.FirstOrDefaultAsync(
                s => s.TakeId == version.ReferenceTakeId && s.Name == StreamNames.Markers,
                cancel
            );
            if (stream is null)
            {
                continue;
            }

            try
            {
                var performer = PerformerJson.Read(Encoding.UTF8.GetBytes(version.Body), "performer");
                var reference = new SampleStore(db).ReadMarkers(stream, "reference");
                version.Poses = PoseListJson.Write(LabelSubject.From(null, performer, reference, cancel).Poses);
                version.Content = ContentHash.Text(ContentHash.Of(version.Body + version.Poses));
            }
            catch (Exception e) when (e is DamagedDataException or ArgumentException or InvalidInputException)
            {
                // Without poses labels ask for a new measurement; everything else of the performer is whole.
                version.Why = $"from the version before; {e.Message}";
            }
        }

        await db.SaveChangesAsync(cancel);
        db.ChangeTracker.Clear();
    }
}
