using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Operations;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>Who plays whom in a take.</summary>
public sealed class CastService(IDbContextFactory<EidolonDb> factory)
{
    /// <summary>A performer of the take plays a character from now on; the node its motion on the character will have.</summary>
    /// <exception cref="RefusedException">One of them is not there.</exception>
    public async Task<NodeRow> Play(int take, int performer, int character, CancellationToken cancel)
    {
        await using var db = factory.CreateDbContext();
        if (!await db.Parts.AnyAsync(p => p.TakeId == take && p.SubjectId == performer && p.Subject!.Kind == SubjectKind.Performer, cancel))
        {
            throw new RefusedException("this performer is not on the slate of the take");
        }

        if (!await db.Shelf.AnyAsync(s => s.Id == character && s.Kind == SubjectKind.Character && s.Version > 0, cancel))
        {
            throw new RefusedException("this character is not in the library");
        }

        return await TakeNodes.Cast(db, take, performer, character, cancel);
    }

    /// <summary>The node of a prop of the take as it is attached to characters.</summary>
    /// <exception cref="RefusedException">It is not there.</exception>
    public async Task<NodeRow> Attached(int take, int prop, CancellationToken cancel)
    {
        await using var db = factory.CreateDbContext();
        return await db.Parts.AnyAsync(p => p.TakeId == take && p.SubjectId == prop && p.Subject!.Kind == SubjectKind.Prop, cancel)
            ? await TakeNodes.Attached(db, take, prop, cancel)
            : throw new RefusedException("this prop is not on the slate of the take");
    }

    /// <summary>A performer does not play a character any more. What a scene is made of stays.</summary>
    /// <exception cref="RefusedException">A scene uses it.</exception>
    public async Task Stop(int take, int node, CancellationToken cancel)
    {
        await using var db = factory.CreateDbContext();
        var row = await db
            .Nodes.Include(n => n.Entries)
            .FirstOrDefaultAsync(n => n.Id == node && n.TakeId == take && n.Kind == NodeKind.Cast, cancel);
        if (row is null)
        {
            throw new RefusedException("that cast is gone");
        }

        var clips = await db.Entries.Where(e => e.Operation == SceneOperations.Clips.Name).Select(e => e.Parameters).ToListAsync(cancel);
        if (clips.Any(c => SceneOperations.ClipsOf(JsonNode.Parse(c) as JsonObject ?? []).Any(x => x.Node == node)))
        {
            throw new RefusedException("a scene uses this cast: take its clip out first");
        }

        db.Nodes.Remove(row);
        db.Clips.RemoveRange(await db.Clips.IgnoreQueryFilters().Where(c => c.NodeId == node).ToListAsync(cancel));
        await db.Takes.Where(t => t.Id == take).ExecuteUpdateAsync(s => s.SetProperty(t => t.Revision, t => t.Revision + 1), cancel);
        await db.SaveChangesAsync(cancel);
    }

    /// <summary>The characters of a production, each with its current version.</summary>
    public IReadOnlyList<(Subject Subject, SubjectVersion Version)> Characters(int production)
    {
        using var db = factory.CreateDbContext();
        var subjects = db
            .Shelf.AsNoTracking()
            .Where(s => s.ProductionId == production && s.Kind == SubjectKind.Character && s.Version > 0)
            .OrderBy(s => s.Name)
            .ToList();
        return [.. subjects.Select(s => (s, db.SubjectVersions.AsNoTracking().First(v => v.SubjectId == s.Id && v.Number == s.Version)))];
    }
}
