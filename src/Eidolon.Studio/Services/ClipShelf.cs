using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Formats;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Storage;
using Eidolon.Storage.Blobs;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Eidolon.Storage.Results;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>What of a track is baked to a clip, and what it is called.</summary>
/// <param name="Node">The track.</param>
/// <param name="From">First frame.</param>
/// <param name="To">The frame after the last; null for all.</param>
/// <param name="Tags">Words to find it by, with commas between them.</param>
public sealed record BakeRequest(int Node, int From, int? To, string? Name, string? Tags);

/// <summary>The library of clips: stretches of casts that were kept, motions baked in scenes, motions brought in from files.</summary>
public sealed class ClipShelf(IDbContextFactory<EidolonDb> factory, SceneService scenes, BlobStore blobs, SubjectLibrary library)
{
    private const int LongestName = 60,
        LongestTags = 200;

    /// <summary>Keeps the stretch of its source that a clip on a track shows.</summary>
    /// <exception cref="RefusedException">There is no such clip, it has no name, or the name is taken.</exception>
    public async Task Keep(int scene, int track, int clip, string? name, string? tags, CancellationToken cancel)
    {
        var (open, of) = Open(scene, track);
        var cut = clip >= 0 && clip < of.Clips.Count ? of.Clips[clip] : throw new RefusedException("that clip is gone");
        var source = (open.Look.Runner.Value(cut.Node, cancel) as MotionValue)?.Motion
            ?? throw new RefusedException("its take has no motion any more");
        var end = Math.Min(cut.End ?? source.FrameCount, source.FrameCount);
        await Add(
            new ClipRow
            {
                ProductionId = open.Scene.ProductionId,
                SubjectId = of.Subject.Id,
                NodeId = cut.Node,
                Start = cut.Start,
                End = end,
                Name = name ?? string.Empty,
                Tags = tags ?? string.Empty,
                Postures = Drawn(MotionEdits.Range(source, cut.Start, end), of.Subject.Id),
            },
            null,
            cancel
        );
    }

    /// <summary>Bakes a track, its layers with it, to a clip of its own; the track with its clips stays as it is.</summary>
    /// <returns>What was made, for people.</returns>
    /// <exception cref="RefusedException">It has no motion, nothing lies between the frames, or it has no name that is free.</exception>
    public async Task<string> Bake(
        int scene,
        BakeRequest request,
        int? job = null,
        IProgress<double>? progress = null,
        CancellationToken cancel = default
    )
    {
        var (open, of) = Open(scene, request.Node);
        // What is out of date is brought up first: a clip never holds what was shown meanwhile.
        var target = open.Look.Runner.Target((of.LayerNode ?? of.Node).Id, run: true, progress, cancel);
        var value = target.Value as MotionValue ?? throw new RefusedException("there is no motion on this track yet");
        var motion = value.Motion;
        var (from, end) = (request.From, Math.Clamp(request.To ?? motion.FrameCount, 0, motion.FrameCount));
        if (from < 0 || end - from < 2)
        {
            throw new RefusedException("two frames at least make a clip");
        }

        var contacts = value.Contacts.Where(c => c.End >= from && c.Start < end).ToList();
        await Add(
            Row(open, of, request.Name, request.Tags, open.Scene.Name),
            new MotionValue(MotionEdits.Range(motion, from, end).From(0))
            {
                Contacts =
                [
                    .. contacts.Select(c => c with { Start = Math.Max(from, c.Start) - from, End = Math.Min(end - 1, c.End) - from }),
                ],
            },
            cancel,
            job,
            Said()
        );
        return Said();

        string Said() => $"'{request.Name}', {(end - from) / motion.FrameRate:0.0} s, is in the library";
    }

    /// <summary>Reads a motion on the character's own skeleton into the library.</summary>
    /// <exception cref="InvalidInputException">It is no motion.</exception>
    /// <exception cref="RefusedException">It is on another skeleton, or at another rate; says where and what to do.</exception>
    public async Task BringIn(int scene, int track, byte[] bytes, string file, CancellationToken cancel)
    {
        var (open, of) = Open(scene, track);
        var own = of.Motion ?? throw new RefusedException("there is no motion on this track yet");
        var motion = MotionFiles.ReadMotion(bytes, file).From(0);
        if (Math.Abs(motion.FrameRate - own.FrameRate) > 1e-6)
        {
            motion = MotionEdits.Resample(motion, own.FrameRate);
        }

        motion = Matched(motion, own.Skeleton, file, of.Subject.Name);
        await using var db = await factory.CreateDbContextAsync(cancel);
        var wish = Path.GetFileNameWithoutExtension(file);
        wish = wish.Length > LongestName - 4 ? wish[..(LongestName - 4)] : wish;
        var name = await FreeName.Of(wish, n => db.Clips.AnyAsync(c => c.ProductionId == open.Scene.ProductionId && c.Name == n, cancel));
        await Add(Row(open, of, name, string.Empty, file), new MotionValue(motion), cancel);
    }

    private (OpenScene Open, OpenScene.Track Track) Open(int scene, int track)
    {
        var open = scenes.Open(scene);
        return (open, open.Tracks.FirstOrDefault(t => t.Node.Id == track) ?? throw new RefusedException("that track is gone"));
    }

    private static ClipRow Row(OpenScene open, OpenScene.Track of, string? name, string? tags, string from) =>
        new()
        {
            ProductionId = open.Scene.ProductionId,
            SubjectId = of.Subject.Id,
            Name = name ?? string.Empty,
            Tags = tags ?? string.Empty,
            From = from,
        };

    /// <param name="job">The job that makes it; it ends in the same transaction.</param>
    /// <param name="said">What the job says then.</param>
    private async Task Add(ClipRow row, MotionValue? own, CancellationToken cancel, int? job = null, string said = "")
    {
        row.Name = row.Name.Trim();
        row.Tags = string.Join(", ", row.Tags.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries));
        await using var db = await factory.CreateDbContextAsync(cancel);
        if (row.Name.Length is 0 or > LongestName || row.Tags.Length > LongestTags)
        {
            throw new RefusedException($"A clip wants a name of 1 to {LongestName} letters, and tags of at most {LongestTags}");
        }

        if (await db.Clips.AnyAsync(c => c.ProductionId == row.ProductionId && c.Name == row.Name, cancel))
        {
            throw new RefusedException($"There is a clip '{row.Name}' already");
        }

        row.CreatedUtc = DateTime.UtcNow;
        // The row, its node and its motion come together or not at all.
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        if (own is not null)
        {
            var node = new NodeRow
            {
                Kind = NodeKind.Clip,
                SubjectId = row.SubjectId,
                TargetId = row.SubjectId,
            };
            db.Nodes.Add(node);
            await db.SaveChangesAsync(cancel);
            var blob = await blobs.Keep(db, ClipFile.Write(own), cancel);
            await db.SaveChangesAsync(cancel);
            (row.NodeId, row.BlobId, row.Content) = (node.Id, blob.Id, ContentHash.Text(ContentHash.Of(own)));
            (row.FrameCount, row.FrameRate) = (own.FrameCount, own.Motion.FrameRate);
            row.Postures = Drawn(own.Motion, row.SubjectId);
        }

        db.Clips.Add(row);
        await db.SaveChangesAsync(cancel);
        if (job is { } j && !db.End(j, said, row.CreatedUtc))
        {
            return;
        }

        await transaction.CommitAsync(cancel);
    }

    private string Drawn(Motion motion, int subject) => Postures.Svg([new(motion, library.Sketch(subject))]);

    /// <summary>The motion on the character's own skeleton, with its roles.</summary>
    private static Motion Matched(Motion motion, Skeleton own, string file, string who)
    {
        RefusedException Other(string what) =>
            new($"{file} is on another skeleton than the {who}: {what}. Bring it in as a take and retarget it");
        if (motion.Skeleton.Count != own.Count)
        {
            throw Other($"it has {motion.Skeleton.Count} joints, not {own.Count}");
        }

        if (own.FirstOther(motion.Skeleton) is { } j)
        {
            var (a, b) = (own[j], motion.Skeleton[j]);
            throw Other(
                a.Name != b.Name || a.Parent != b.Parent
                    ? $"its joint '{b.Name}' is not '{a.Name}'"
                    : $"'{b.Name}' is {(a.Offset - b.Offset).Length() * 1000:0} mm off"
            );
        }

        return motion.On(own);
    }
}
