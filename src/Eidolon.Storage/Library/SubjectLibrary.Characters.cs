using Eidolon.Core;
using Eidolon.Core.Characters;
using Eidolon.Core.Characters.Preparing;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Skeletons;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Library;

/// <summary>Characters while they are prepared: a draft over the current version, kept with every change, that becomes the next version.</summary>
public sealed partial class SubjectLibrary
{
    /// <summary>A character as its draft makes it now.</summary>
    /// <param name="Locked">It was accepted; nothing is being done to it.</param>
    public sealed record Preparation(Subject Subject, SubjectVersion Version, GltfCharacter File, PreparedCharacter Made, bool Locked);

    /// <summary>A character with its draft; null when there is none or it has no file.</summary>
    public Preparation? Prepare(int character)
    {
        using var db = factory.CreateDbContext();
        return Current(db, character) is ({ Kind: SubjectKind.Character } subject, { BlobId: not null } version)
            ? Prepared(db, subject, version)
            : null;
    }

    /// <summary>One more change to a draft, or (null) one less.</summary>
    /// <exception cref="RefusedException">The change cannot be made, or the character is locked.</exception>
    public async Task Change(int character, DraftStep? step, CancellationToken cancel = default)
    {
        await using var db = factory.CreateDbContext();
        var subject = await Find(db, character, cancel);
        var draft = CharacterDraftJson.Read(subject.Draft ?? throw new RefusedException($"{subject.Name} is locked: unlock it first"));
        var next = step is null ? draft.Back() : draft.With(step);
        subject.Draft = CharacterDraftJson.Write(next);
        if (Current(db, character) is (_, { BlobId: not null } version))
        {
            // What cannot be made is refused here, and not kept.
            Prepared(db, subject, version);
        }

        await db.SaveChangesAsync(cancel);
    }

    /// <summary>A character can be changed again; its map stays.</summary>
    public async Task Unlock(int character, CancellationToken cancel = default)
    {
        await using var db = factory.CreateDbContext();
        var subject = await Find(db, character, cancel);
        subject.Draft ??= string.Empty;
        await db.SaveChangesAsync(cancel);
    }

    /// <summary>What the draft makes becomes the next version, and the character is locked. Where nothing was changed it is only locked.</summary>
    /// <exception cref="RefusedException">Roles are missing, or its size is no figure's.</exception>
    public async Task<SubjectVersion> Accept(int character, CancellationToken cancel = default)
    {
        await using var db = factory.CreateDbContext();
        var subject = await Find(db, character, cancel);
        if (Current(db, character) is not (_, { BlobId: not null } version))
        {
            throw new RefusedException($"{subject.Name} has no file");
        }

        var (_, _, file, made, _) = Prepared(db, subject, version);
        if (made.After.Verdict == RestVerdict.CannotFit)
        {
            throw new RefusedException($"{subject.Name} cannot be kept yet: {made.After.Reasons[0]}");
        }

        subject.Draft = null;
        var why = made.Words.Length > 0 ? $"prepared: {made.Words}" : "accepted as it came";
        var next = await Version(db, file.Write(made), made, CharacterMap.Kept, why, cancel);
        if (next.Content == version.Content)
        {
            // The same motions come of it: it is no new version, only looked at by a person now.
            await db.SubjectVersions.Where(v => v.Id == version.Id).ExecuteUpdateAsync(s => s.SetProperty(v => v.Body, next.Body), cancel);
            await db.SaveChangesAsync(cancel);
            return version;
        }

        return await Keep(db, subject, next, cancel);
    }

    private Preparation Prepared(EidolonDb db, Subject subject, SubjectVersion version)
    {
        var file = memory.Of("file " + version.BlobId, () =>
            GltfCharacter.Open(blobs.Read(db, version.BlobId!.Value), subject.Name + ".glb")
        );
        var draft = CharacterDraftJson.Read(subject.Draft ?? string.Empty);
        var made = file.Prepare(draft, CharacterMap.Of(version, file.Skeleton, subject.Name));
        return new Preparation(subject, version, file, made, subject.Draft is null);
    }

    /// <summary>A map that was kept for this character before, or for another whose joints have the same names.</summary>
    private static async Task<(IReadOnlyDictionary<BodyRole, string>? Map, string? Whose)> RoleMapOf(
        EidolonDb db,
        Subject subject,
        Skeleton skeleton,
        CancellationToken cancel
    )
    {
        var kept = await db
            .Shelf.AsNoTracking()
            .Where(s => s.ProductionId == subject.ProductionId && s.Kind == SubjectKind.Character && s.Version > 0)
            .Join(
                db.SubjectVersions,
                s => s.Id,
                v => v.SubjectId,
                (s, v) =>
                    new
                    {
                        s.Id,
                        s.Name,
                        s.Version,
                        Of = v,
                    }
            )
            .Where(x => x.Of.Number == x.Version)
            .ToListAsync(cancel);
        foreach (var one in kept.OrderBy(x => x.Id == subject.Id ? 0 : 1).ThenByDescending(x => x.Of.CreatedUtc))
        {
            if (CharacterMap.For(one.Of, skeleton) is { } map)
            {
                return (map, one.Id == subject.Id ? "before" : one.Name);
            }
        }

        return (null, null);
    }

    private async Task<SubjectVersion> Version(
        EidolonDb db,
        byte[] glb,
        PreparedCharacter made,
        string from,
        string why,
        CancellationToken cancel
    )
    {
        var blob = await blobs.Keep(db, glb, cancel);
        var own = RoleFinder.Find(made.Came).Roles;
        var asFound = own.Count == made.Sheet.Roles.Count && own.All(r => made.Sheet.Roles.GetValueOrDefault(r.Key) == r.Value);
        var body = CharacterMap.Write(made.Sheet.Roles, from);
        var file = ContentHash.Text(ContentHash.Of(glb));
        return new SubjectVersion
        {
            // Roles that anyone would find make no difference to what comes of it.
            Content = asFound ? file : ContentHash.Text(ContentHash.Of(file + RoleMapJson.Write(made.Sheet.Roles))),
            BlobId = blob.Id,
            Body = body,
            Verdict = made.After.Verdict.ToString(),
            Reasons = string.Join("; ", made.After.Reasons),
            Height = Math.Round(made.Height, 2),
            Why = why,
        };
    }
}
