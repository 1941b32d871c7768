using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Assembly;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Storage;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>Scenes as the pages need them.</summary>
public sealed class SceneService(IDbContextFactory<EidolonDb> factory, LedgerBook book, SubjectLibrary library)
{
    private static readonly MemoCache<(UInt128, int, int?), IReadOnlyList<string>> _words = new(500_000, w =>
        w.Sum(x => 40L + (2 * x.Length))
    );

    /// <exception cref="RefusedException">There is no such scene.</exception>
    public OpenScene Open(int id)
    {
        using var db = factory.CreateDbContext();
        var scene = db.Scenes.AsNoTracking().Include(s => s.HandOffs).FirstOrDefault(s => s.Id == id)
            ?? throw new RefusedException("there is no such scene");
        var look = book.Look(LedgerOwner.Scene(id));
        var subjects = db.Subjects.AsNoTracking().Where(s => s.ProductionId == scene.ProductionId).ToDictionary(s => s.Id);
        var nodes = look.Of(NodeKind.Track).SelectMany(n => look.State(n).Node.Inputs).Distinct().ToList();
        var open = new OpenScene(scene, look, subjects, Sources(db, nodes, subjects));
        return open;
    }

    /// <summary>The scene of a take, made when there is none; casts that came since have their tracks in it.</summary>
    public async Task<Scene> OfTake(int take, CancellationToken cancel)
    {
        await using var db = factory.CreateDbContext();
        var row = await db.Takes.FirstOrDefaultAsync(t => t.Id == take, cancel) ?? throw new RefusedException("there is no such take");
        var scene = await SceneNodes.OfTake(db, row, cancel);
        await SceneNodes.Follow(db, row, scene, cancel);
        Lay(scene.Id, cancel);
        return scene;
    }

    /// <summary>Lays whole clips down whose casts are up to date: that is a copy, and the scene shows its motion when it opens.</summary>
    private void Lay(int scene, CancellationToken cancel)
    {
        var look = book.Look(LedgerOwner.Scene(scene));
        var stale = look.OutOfDate.ToList();
        if (
            stale.Count > 0
            && stale.TrueForAll(s => s.Node.Inputs.Count == 1 && s.Node.Entries.Count == 1 && look.Runner.Look(s.Node.Inputs[0]).UpToDate)
        )
        {
            book.BringUp(LedgerOwner.Scene(scene), cancel: cancel);
        }
    }

    /// <summary>A new scene of the production, with nobody in it.</summary>
    public async Task<Scene> Add(int production, int? day, string? name, CancellationToken cancel)
    {
        name = (name ?? string.Empty).Trim();
        await using var db = factory.CreateDbContext();
        if (name.Length is 0 or > 60 || await db.Scenes.AnyAsync(s => s.ProductionId == production && s.Name == name, cancel))
        {
            throw new RefusedException(
                name.Length is 0 or > 60 ? "A scene wants a name of 1 to 60 letters" : $"There is a scene '{name}' already"
            );
        }

        var scene = new Scene
        {
            ProductionId = production,
            ShootDayId = day,
            Name = name,
            CreatedUtc = DateTime.UtcNow,
        };
        db.Scenes.Add(scene);
        await db.SaveChangesAsync(cancel);
        return scene;
    }

    /// <summary>Name of a scene; null when there is none.</summary>
    public async Task<string?> NameOf(int scene, CancellationToken cancel)
    {
        await using var db = factory.CreateDbContext();
        return await db.Scenes.Where(s => s.Id == scene).Select(s => s.Name).FirstOrDefaultAsync(cancel);
    }

    /// <summary>Characters of the production: those that have no track in the scene yet first, then by name.</summary>
    public async Task<IReadOnlyList<Subject>> Characters(OpenScene open, CancellationToken cancel)
    {
        var present = open.Tracks.Select(t => t.Subject.Id).ToList();
        await using var db = factory.CreateDbContext();
        return await db
            .Shelf.AsNoTracking()
            .Where(s => s.ProductionId == open.Scene.ProductionId && s.Kind == SubjectKind.Character && s.Version > 0)
            .OrderBy(s => present.Contains(s.Id))
            .ThenBy(s => s.Name)
            .ToListAsync(cancel);
    }

    /// <summary>A character comes into the scene, or once more, with a first clip.</summary>
    /// <returns>Its track; null when there is no such scene.</returns>
    /// <exception cref="RefusedException">No take has a motion for it yet.</exception>
    public async Task<NodeRow?> Enter(int id, int character, CancellationToken cancel)
    {
        await using var db = factory.CreateDbContext();
        if (await db.Scenes.FirstOrDefaultAsync(s => s.Id == id, cancel) is not { } scene)
        {
            return null;
        }

        var first = ClipsFor(Open(id), character).Select(c => c.Node).Take(1).ToList();
        return first.Count == 0
            ? throw new RefusedException("No take has a motion for this character yet: retarget one first.")
            : await SceneNodes.Another(db, scene, character, first, cancel);
    }

    /// <summary>
    /// What clips of a track can be cut from: the same character's casts in any take of the production, or a performer's own solves; and motions of
    /// the library.
    /// </summary>
    public IReadOnlyList<OpenScene.SceneClip> ClipsFor(OpenScene open, int subject)
    {
        using var db = factory.CreateDbContext();
        var nodes = db
            .Nodes.Where(n =>
                n.Entries.Any(e => e.On)
                && n.TakeId != null
                && ((n.Kind == NodeKind.Cast && n.TargetId == subject) || (n.Kind == NodeKind.Solve && n.SubjectId == subject))
            )
            .Select(n => n.Id)
            .Concat(
                db.Clips.Where(c => c.ProductionId == open.Scene.ProductionId && c.SubjectId == subject && c.BlobId != null)
                    .Select(c => c.NodeId)
            )
            .ToList();
        var subjects = db.Subjects.AsNoTracking().Where(s => s.ProductionId == open.Scene.ProductionId).ToDictionary(s => s.Id);
        return [.. Sources(db, nodes, subjects).Values.OrderBy(c => c.TakeName)];
    }

    /// <summary>The library as a track's page shows it: what was kept by hand first, then whole casts.</summary>
    public IReadOnlyList<OpenScene.LibraryClip> Library(OpenScene open, int subject)
    {
        var sources = ClipsFor(open, subject);
        using var db = factory.CreateDbContext();
        var kept = db
            .Clips.AsNoTracking()
            .Where(c => c.ProductionId == open.Scene.ProductionId && c.SubjectId == subject)
            .OrderBy(c => c.Name)
            .ToList();
        var own = kept.Where(c => c.BlobId is not null).Select(c => c.NodeId).ToHashSet();
        return
        [
            .. kept.Select(c => (Row: c, Source: sources.FirstOrDefault(s => s.Node == c.NodeId)))
                .Where(c => c.Source is not null)
                .Select(c => new OpenScene.LibraryClip(
                    c.Source!,
                    Math.Min(c.Row.Start, c.Source!.Frames - 1),
                    Math.Min(c.Row.End ?? c.Source.Frames, c.Source.Frames),
                    c.Row.Name,
                    c.Row.Postures,
                    c.Row
                )),
            .. sources
                .Where(s => !own.Contains(s.Node))
                .Select(s => new OpenScene.LibraryClip(s, 0, s.Frames, s.TakeName, s.Postures, null)),
        ];
    }

    /// <summary>Good moments for a clip to follow the one before it: the later part of that one against the earlier part of this one.</summary>
    /// <param name="clip">Its place on the track, from 1.</param>
    /// <returns>Moments in frames of the clips' own sources; the strip in frames of the earlier source from its first frame on.</returns>
    /// <exception cref="RefusedException">There is no such clip, or one of the two is not played as it is.</exception>
    public static (MomentLook Look, int From, int Begin) Moments(OpenScene open, OpenScene.Track track, int clip)
    {
        if (clip < 1 || clip >= track.Clips.Count)
        {
            throw new RefusedException("there is no clip before this one");
        }

        var said = (JsonArray)track.SetUp!["clips"]!;
        foreach (var play in new[] { said[clip - 1]!, said[clip]! })
        {
            if (((double?)play["speed"] ?? 1) is not 1 || ((int?)play["repeat"] ?? 1) != 1 || (bool?)play["reverse"] == true)
            {
                throw new RefusedException("moments are proposed for clips at their own speed, played once and forwards");
            }
        }

        Motion Source(int place)
        {
            var motion = (open.Look.Runner.Value(track.Clips[place].Node) as MotionValue)?.Motion
                ?? throw new RefusedException("a clip's take has no motion any more");
            return (bool?)said[place]!["mirror"] == true ? MotionMirror.Mirror(motion) : motion;
        }

        var (a, b) = (track.Clips[clip - 1], track.Clips[clip]);
        var (one, other) = (Source(clip - 1), Source(clip));
        var (endA, endB) = (Math.Min(a.End ?? one.FrameCount, one.FrameCount), Math.Min(b.End ?? other.FrameCount, other.FrameCount));
        // Each keeps more than half of itself: the best match of all is worth nothing where it leaves nothing of a clip.
        var from = a.Start + ((endA - a.Start) * 3 / 5);
        var to = b.Start + ((endB - b.Start) * 2 / 5);
        var look = MomentFinder.Look(MotionEdits.Range(one, from, endA), MotionEdits.Range(other, b.Start, to), 4);
        return (look, from, b.Start);
    }

    /// <summary>Words for what a stretch of a clip's source does; none while it has no motion.</summary>
    /// <param name="end">Exclusive; null for its end.</param>
    public IReadOnlyList<string> WordsOf(OpenScene open, int node, int start = 0, int? end = null) =>
        open.Look.Runner.Look(node).Shown is { } shown
            ? _words.Of((shown, start, end), () =>
                open.Look.Runner.Value(node) is MotionValue { Motion: var m } && start < Math.Min(end ?? m.FrameCount, m.FrameCount)
                    ? ClipWords.Of(MotionEdits.Range(m, start, Math.Min(end ?? m.FrameCount, m.FrameCount)))
                    : []
            )
            : [];

    /// <summary>The clips of a track as the parameters of its set-up.</summary>
    public static JsonObject Parameters(IEnumerable<SceneOperations.Clip> clips, int overlap) =>
        new()
        {
            ["clips"] = new JsonArray([
                .. clips.Select(c =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["node"] = c.Node,
                            ["start"] = c.Start,
                            ["end"] = c.End,
                        }
                ),
            ]),
            ["overlap"] = overlap,
        };

    /// <summary>Writes down what the Board shows of a scene.</summary>
    public void Refresh(OpenScene open)
    {
        var postures = open.Moving.Any()
            ? Postures.Svg([.. open.Moving.Select(t => new Postures.Actor(t.Motion!, library.Sketch(t.Subject.Id)))])
            : string.Empty;
        var seconds = open.FrameCount / open.FrameRate;
        using var db = factory.CreateDbContext();
        db.Scenes.Where(s => s.Id == open.Scene.Id && (s.Postures != postures || s.Seconds != seconds))
            .ExecuteUpdate(s => s.SetProperty(x => x.Postures, postures).SetProperty(x => x.Seconds, seconds));
    }

    private static Dictionary<int, OpenScene.SceneClip> Sources(EidolonDb db, IReadOnlyList<int> nodes, Dictionary<int, Subject> subjects)
    {
        // A clip that was put aside goes on being played where it is.
        var own = db
            .Clips.IgnoreQueryFilters()
            .AsNoTracking()
            .Where(c => nodes.Contains(c.NodeId) && c.BlobId != null)
            .AsEnumerable()
            .Select(c => new OpenScene.SceneClip(c.NodeId, c.Name, c.From, c.FrameCount, c.FrameRate, c.Postures));
        return db
            .Nodes.AsNoTracking()
            .Where(n => nodes.Contains(n.Id))
            .Join(
                db.Takes,
                n => n.TakeId,
                t => t.Id,
                (n, t) =>
                    new
                    {
                        n.Id,
                        n.SubjectId,
                        t.Name,
                        t.FrameCount,
                        t.FrameRate,
                        t.Postures,
                    }
            )
            .AsEnumerable()
            .Select(x => new OpenScene.SceneClip(
                x.Id,
                x.Name,
                subjects.TryGetValue(x.SubjectId, out var s) ? s.Name : "gone",
                x.FrameCount,
                x.FrameRate,
                x.Postures
            ))
            .Concat(own)
            .ToDictionary(c => c.Node);
    }
}
