using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Library;

/// <summary>What can be put aside.</summary>
public enum AsideKind
{
    Take,
    Day,
    Subject,
    Recipe,
    Scene,
    Clip,
    Track,
}

/// <summary>
/// Takes, days, subjects, Recipes, scenes, clips and tracks that a person does not want any more: out of every list, kept for thirty days, brought back
/// with one action. Only after that are they really gone; a subject that a take still has on its slate never is, nor a clip that a scene plays.
/// </summary>
public sealed class Aside(IDbContextFactory<EidolonDb> factory, TimeProvider time)
{
    /// <summary>How long it is kept.</summary>
    public static readonly TimeSpan Kept = TimeSpan.FromDays(30);

    /// <summary>Something that was put aside.</summary>
    /// <param name="What">"take", "shoot day", "performer" …</param>
    public sealed record Item(AsideKind Kind, int Id, string What, string Name, DateTime SinceUtc)
    {
        public int DaysLeft(DateTime now) => Math.Max(0, (int)Math.Ceiling((SinceUtc + Kept - now).TotalDays));
    }

    private DateTime Now => time.GetUtcNow().UtcDateTime;

    /// <summary>Puts something aside; a day takes its takes with it.</summary>
    /// <exception cref="RefusedException">It is not there, or somebody is at work on it.</exception>
    public async Task<Item> Put(AsideKind kind, int id, CancellationToken cancel = default)
    {
        await using var db = factory.CreateDbContext();
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var now = Now;
        var item = kind switch
        {
            AsideKind.Take => await Take(db, id, now, cancel),
            AsideKind.Day => await Day(db, id, now, cancel),
            AsideKind.Subject => Set(await db.Subjects.FirstOrDefaultAsync(s => s.Id == id && s.AsideUtc == null, cancel), now),
            AsideKind.Recipe => Set(await db.Recipes.FirstOrDefaultAsync(r => r.Id == id, cancel), now),
            AsideKind.Clip => Set(await db.Clips.FirstOrDefaultAsync(c => c.Id == id, cancel), now),
            AsideKind.Track => await Track(db, id, now, cancel),
            _ => Set(await db.Scenes.FirstOrDefaultAsync(s => s.Id == id && s.TakeId == null, cancel), now),
        };
        if (item is null)
        {
            throw new RefusedException("that is gone already");
        }

        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        return item;
    }

    /// <summary>Brings it back as it was; under another name where its own is taken by now.</summary>
    /// <exception cref="RefusedException">It is not there any more.</exception>
    public async Task<Item> Bring(AsideKind kind, int id, CancellationToken cancel = default)
    {
        await using var db = factory.CreateDbContext();
        var item = kind switch
        {
            AsideKind.Take => await BringTake(db, id, cancel),
            AsideKind.Day => await BringDay(db, id, cancel),
            AsideKind.Subject => await BringSubject(db, id, cancel),
            AsideKind.Recipe => Set(await db.Recipes.IgnoreQueryFilters().FirstOrDefaultAsync(r => r.Id == id, cancel), null),
            AsideKind.Clip => await BringClip(db, id, cancel),
            AsideKind.Track => await Track(db, id, null, cancel),
            _ => await BringScene(db, id, cancel),
        };
        if (item is null)
        {
            throw new RefusedException("that is gone for good");
        }

        await db.SaveChangesAsync(cancel);
        return item;
    }

    /// <summary>Everything put aside, the latest first; takes that went with their day stand with it.</summary>
    public async Task<IReadOnlyList<Item>> List(CancellationToken cancel = default)
    {
        await using var db = factory.CreateDbContext();
        var items = new List<Item>();
        var days = await db.Days.IgnoreQueryFilters().Where(d => d.AsideUtc != null).ToListAsync(cancel);
        items.AddRange(days.Select(Of));
        items.AddRange(
            (await AsideTakes(db).ToListAsync(cancel))
                .Where(t => !days.Exists(d => d.Id == t.ShootDayId && d.AsideUtc == t.AsideUtc))
                .Select(Of)
        );
        items.AddRange((await db.Subjects.Where(s => s.AsideUtc != null).ToListAsync(cancel)).Select(Of));
        items.AddRange((await db.Recipes.IgnoreQueryFilters().Where(r => r.AsideUtc != null).ToListAsync(cancel)).Select(Of));
        foreach (var track in await AsideTracks(db).Where(n => n.Kind == NodeKind.Track).ToListAsync(cancel))
        {
            items.Add(await Of(db, track, cancel));
        }

        items.AddRange((await db.Clips.IgnoreQueryFilters().Where(c => c.AsideUtc != null).ToListAsync(cancel)).Select(Of));
        items.AddRange(
            (await db.Scenes.IgnoreQueryFilters().Where(s => s.AsideUtc != null && s.TakeId == null).ToListAsync(cancel)).Select(Of)
        );
        return [.. items.OrderByDescending(i => i.SinceUtc)];
    }

    /// <summary>What has been aside for longer than it is kept goes for good.</summary>
    /// <returns>How many.</returns>
    public async Task<int> Sweep(CancellationToken cancel = default)
    {
        await using var db = factory.CreateDbContext();
        var before = Now - Kept;
        var takes = await AsideTakes(db).Where(t => t.AsideUtc < before).Select(t => t.Id).ToListAsync(cancel);
        foreach (var take in takes)
        {
            await TakeRemoval.Remove(db, take, cancel);
        }

        var scenes = await db.Scenes.IgnoreQueryFilters().Where(s => s.AsideUtc < before && s.TakeId == null).ToListAsync(cancel);
        foreach (var scene in scenes)
        {
            await TakeRemoval.Trace(db, LedgerOwner.Scene(scene.Id), cancel);
        }

        db.Scenes.RemoveRange(scenes);
        await db.SaveChangesAsync(cancel);
        var days = await db
            .Days.IgnoreQueryFilters()
            .Where(d => d.AsideUtc < before && !db.Takes.IgnoreQueryFilters().Any(t => t.ShootDayId == d.Id))
            .ExecuteDeleteAsync(cancel);
        var recipes = await db.Recipes.IgnoreQueryFilters().Where(r => r.AsideUtc < before).ExecuteDeleteAsync(cancel);
        var tracks = await AsideTracks(db).Where(n => n.Kind == NodeKind.Track && n.AsideUtc < before).CountAsync(cancel);
        await AsideTracks(db).Where(n => n.AsideUtc < before).ExecuteDeleteAsync(cancel);
        var clips = await SweepClips(db, before, cancel);
        // A subject that anything still stands on stays aside.
        var subjects = await db
            .Subjects.Where(s =>
                s.AsideUtc < before
                && !db.Parts.Any(p => p.SubjectId == s.Id)
                && !db.Nodes.Any(n => n.SubjectId == s.Id || n.TargetId == s.Id)
            )
            .ExecuteDeleteAsync(cancel);
        return takes.Count + scenes.Count + days + recipes + tracks + clips + subjects;
    }

    /// <summary>A motion of its own goes with its clip; one that a scene plays stays aside.</summary>
    private static async Task<int> SweepClips(EidolonDb db, DateTime before, CancellationToken cancel)
    {
        var old = await db.Clips.IgnoreQueryFilters().Where(c => c.AsideUtc < before).ToListAsync(cancel);
        if (old.Count == 0)
        {
            return 0;
        }

        var played = (await db.Entries.Where(e => e.Operation == SceneOperations.Clips.Name).Select(e => e.Parameters).ToListAsync(cancel))
            .SelectMany(p => SceneOperations.ClipsOf((JsonObject)JsonNode.Parse(p)!))
            .Select(c => c.Node)
            .ToHashSet();
        old.RemoveAll(c => c.BlobId is not null && played.Contains(c.NodeId));
        var own = old.Where(c => c.BlobId is not null).Select(c => c.NodeId).ToList();
        db.Clips.RemoveRange(old);
        await db.SaveChangesAsync(cancel);
        await db.Nodes.Where(n => own.Contains(n.Id)).ExecuteDeleteAsync(cancel);
        return old.Count;
    }

    private static IQueryable<Take> AsideTakes(EidolonDb db) => db.Takes.IgnoreQueryFilters().Where(t => t.AsideUtc != null);

    private static async Task<Item?> Take(EidolonDb db, int id, DateTime now, CancellationToken cancel)
    {
        var take = await db.Takes.FirstOrDefaultAsync(t => t.Id == id, cancel);
        if (take is not null)
        {
            await AtRest(db, [id], cancel);
        }

        return Set(take, now);
    }

    private static async Task<Item?> Day(EidolonDb db, int id, DateTime now, CancellationToken cancel)
    {
        if (await db.Days.FirstOrDefaultAsync(d => d.Id == id, cancel) is not { } day)
        {
            return null;
        }

        var takes = await db.Takes.Where(t => t.ShootDayId == id).ToListAsync(cancel);
        await AtRest(db, [.. takes.Select(t => t.Id)], cancel);
        takes.ForEach(t => t.AsideUtc = now);
        day.AsideUtc = now;
        return Of(day);
    }

    /// <summary>Nobody is at work on these takes.</summary>
    private static async Task AtRest(EidolonDb db, List<int> takes, CancellationToken cancel)
    {
        if (await db.Takes.AnyAsync(t => takes.Contains(t.Id) && t.State == TakeState.Recording, cancel))
        {
            throw new RefusedException("it is being recorded: stop the recording first");
        }

        if (
            await db.Jobs.AnyAsync(
                j => j.TakeId != null && takes.Contains(j.TakeId.Value) && (j.State == JobState.Waiting || j.State == JobState.Running),
                cancel
            )
        )
        {
            throw new RefusedException("a job is at work on it: stop it, or wait until it is done");
        }
    }

    private static async Task<Item?> BringTake(EidolonDb db, int id, CancellationToken cancel)
    {
        if (await AsideTakes(db).FirstOrDefaultAsync(t => t.Id == id, cancel) is not { } take)
        {
            return null;
        }

        take.Name = await TakeMaker.FreeName(db, take.ShootDayId, take.Name, cancel);
        take.AsideUtc = null;
        // Its day comes with it: a take without a day would be in no list.
        if (await db.Days.IgnoreQueryFilters().FirstAsync(d => d.Id == take.ShootDayId, cancel) is { AsideUtc: not null } day)
        {
            day.AsideUtc = null;
        }

        return Of(take);
    }

    private static async Task<Item?> BringDay(EidolonDb db, int id, CancellationToken cancel)
    {
        if (await db.Days.IgnoreQueryFilters().FirstOrDefaultAsync(d => d.Id == id && d.AsideUtc != null, cancel) is not { } day)
        {
            return null;
        }

        foreach (var take in await AsideTakes(db).Where(t => t.ShootDayId == id && t.AsideUtc == day.AsideUtc).ToListAsync(cancel))
        {
            take.Name = await TakeMaker.FreeName(db, id, take.Name, cancel);
            take.AsideUtc = null;
        }

        day.AsideUtc = null;
        return Of(day);
    }

    private static async Task<Item?> BringSubject(EidolonDb db, int id, CancellationToken cancel)
    {
        if (await db.Subjects.FirstOrDefaultAsync(s => s.Id == id && s.AsideUtc != null, cancel) is not { } subject)
        {
            return null;
        }

        subject.Name = await FreeName.Of(subject.Name, name =>
            db.Shelf.AnyAsync(s => s.ProductionId == subject.ProductionId && s.Kind == subject.Kind && s.Name == name, cancel)
        );
        return Set(subject, null);
    }

    private static async Task<Item?> BringScene(EidolonDb db, int id, CancellationToken cancel)
    {
        if (await db.Scenes.IgnoreQueryFilters().FirstOrDefaultAsync(s => s.Id == id && s.AsideUtc != null, cancel) is not { } scene)
        {
            return null;
        }

        scene.Name = await FreeName.Of(scene.Name, name =>
            db.Scenes.AnyAsync(s => s.ProductionId == scene.ProductionId && s.Name == name, cancel)
        );
        return Set(scene, null);
    }

    private static IQueryable<NodeRow> AsideTracks(EidolonDb db) => db.Nodes.IgnoreQueryFilters().Where(n => n.AsideUtc != null);

    /// <summary>A track with the layers over it.</summary>
    private static async Task<Item?> Track(EidolonDb db, int id, DateTime? when, CancellationToken cancel)
    {
        var all = db.Nodes.IgnoreQueryFilters();
        var track = await all.FirstOrDefaultAsync(
            n => n.Id == id && n.Kind == NodeKind.Track && (n.AsideUtc == null) == (when != null),
            cancel
        );
        if (track?.SceneId is null)
        {
            return null;
        }

        var item = await Of(db, track, cancel);
        var layers = await all.FirstOrDefaultAsync(
            n => n.SceneId == track.SceneId && n.Kind == NodeKind.Layers && n.SubjectId == track.SubjectId && n.Source == track.Source,
            cancel
        );
        track.AsideUtc = when;
        layers?.AsideUtc = when;
        await db
            .Scenes.Where(s => s.Id == track.SceneId)
            .ExecuteUpdateAsync(s => s.SetProperty(x => x.Revision, x => x.Revision + 1), cancel);
        return item with { SinceUtc = when ?? item.SinceUtc };
    }

    /// <summary>A track by the names of its character and scene.</summary>
    private static async Task<Item> Of(EidolonDb db, NodeRow track, CancellationToken cancel)
    {
        var who = await db.Subjects.Where(s => s.Id == track.SubjectId).Select(s => s.Name).FirstOrDefaultAsync(cancel);
        var where = await db.Scenes.IgnoreQueryFilters().Where(s => s.Id == track.SceneId).Select(s => s.Name).FirstOrDefaultAsync(cancel);
        return new(AsideKind.Track, track.Id, "track", $"{who} of {where}", track.AsideUtc ?? default);
    }

    private static async Task<Item?> BringClip(EidolonDb db, int id, CancellationToken cancel)
    {
        if (await db.Clips.IgnoreQueryFilters().FirstOrDefaultAsync(c => c.Id == id && c.AsideUtc != null, cancel) is not { } clip)
        {
            return null;
        }

        clip.Name = await FreeName.Of(clip.Name, name =>
            db.Clips.AnyAsync(c => c.ProductionId == clip.ProductionId && c.Name == name, cancel)
        );
        return Set(clip, null);
    }

    private static Item? Set(IPutAside? row, DateTime? when)
    {
        if (row is null)
        {
            return null;
        }

        row.AsideUtc = when;
        return Of(row);
    }

    private static Item Of(IPutAside row)
    {
        var (kind, what) = row switch
        {
            Model.Take => (AsideKind.Take, "take"),
            ShootDay => (AsideKind.Day, "shoot day"),
            Subject subject => (AsideKind.Subject, subject.Kind.ToString().ToLowerInvariant()),
            RecipeRow => (AsideKind.Recipe, "Recipe"),
            ClipRow => (AsideKind.Clip, "clip"),
            _ => (AsideKind.Scene, "scene"),
        };
        return new(kind, row.Id, what, row.Name, row.AsideUtc ?? default);
    }
}
