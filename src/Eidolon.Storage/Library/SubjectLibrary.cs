using System.Text;
using Eidolon.Core;
using Eidolon.Core.Characters;
using Eidolon.Core.Characters.Preparing;
using Eidolon.Core.Clipping;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Labelling;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.Storage.Blobs;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Library;

/// <summary>Performers, characters and props of a production. A change of any of them is a new version; the one before stays as it was.</summary>
public sealed partial class SubjectLibrary(IDbContextFactory<EidolonDb> factory, ResourceMemory memory, BlobStore blobs, TimeProvider time)
{
    public const int LongestName = 40;

    /// <summary>Adds a subject without a version.</summary>
    /// <exception cref="RefusedException">The name cannot be used; says why.</exception>
    public async Task<Subject> Add(int production, SubjectKind kind, string? name, CancellationToken cancel = default)
    {
        name = (name ?? string.Empty).Trim();
        if (name.Length is 0 or > LongestName || name.IndexOfAny([':', ',', '/', '\n']) >= 0)
        {
            throw new RefusedException($"A name of 1 to {LongestName} letters is wanted, without : , and /");
        }

        await using var db = factory.CreateDbContext();
        if (await db.Shelf.AnyAsync(s => s.ProductionId == production && s.Kind == kind && s.Name == name, cancel))
        {
            throw new RefusedException($"There is a {kind.ToString().ToLowerInvariant()} '{name}' already");
        }

        var subject = new Subject
        {
            ProductionId = production,
            Kind = kind,
            Name = name,
        };
        db.Subjects.Add(subject);
        await db.SaveChangesAsync(cancel);
        return subject;
    }

    /// <summary>A performer measured from labelled markers: body, poses and figure become a new version.</summary>
    /// <param name="markers">Of this performer alone, names without prefix.</param>
    /// <exception cref="ArgumentException">The markers do not show what is needed; says what is missing.</exception>
    public async Task<SubjectVersion> Measure(
        int performer,
        MarkerTake markers,
        MarkerSet set,
        int take,
        IProgress<double>? progress = null,
        CancellationToken cancel = default,
        JobEnd? end = null
    )
    {
        await using var db = factory.CreateDbContext();
        var subject = await Find(db, performer, cancel);
        var (body, report) = PerformerCalibration.Calibrate(subject.Name, markers, set, cancel, progress);
        var takeName = await db.Takes.Where(t => t.Id == take).Select(t => t.Name).FirstOrDefaultAsync(cancel);
        var why = string.Join("; ", report.Warnings.Prepend($"measured from {takeName}"));
        return await Embody(db, subject, body, markers, take, report.ResidualRms, why, cancel, end);
    }

    /// <summary>A measured performer whose body a person put right; poses and figure are made anew.</summary>
    /// <param name="take">The take it stands on.</param>
    /// <param name="fit">Mean distance of that take's markers from the body, metres.</param>
    public async Task<SubjectVersion> Fit(
        int performer,
        Performer body,
        MarkerTake markers,
        int take,
        double fit,
        string why,
        CancellationToken cancel = default
    )
    {
        await using var db = factory.CreateDbContext();
        return await Embody(db, await Find(db, performer, cancel), body, markers, take, fit, why, cancel);
    }

    /// <summary>A body by height and reach, for a performer who is not measured yet: it can be looked at, nothing is solved with it.</summary>
    public async Task<SubjectVersion> Guess(int performer, float stature, float reach, CancellationToken cancel = default)
    {
        await using var db = factory.CreateDbContext();
        var subject = await Find(db, performer, cancel);
        var skeleton = Anthropometry.Body(stature, reach);
        var figure = await blobs.Keep(db, GltfSkinWriter.Write(skeleton, PerformerFigure.Of(skeleton), subject.Name), cancel);
        return await Keep(
            db,
            subject,
            new SubjectVersion
            {
                Content = ContentHash.Text(ContentHash.Of($"guess {stature:R} {reach:R}")),
                Height = stature,
                BlobId = figure.Id,
                Why = "from height and build",
            },
            cancel
        );
    }

    /// <summary>
    /// A character from a GLB, glTF or BVH file: roles found, rest pose checked. A mesh without a rig gets one, bones without a mesh are seen as plain blocks.
    /// </summary>
    /// <exception cref="InvalidInputException">The file is no character; nothing is kept.</exception>
    /// <exception cref="RefusedException">It is a mesh into which no skeleton could be put; nothing is kept.</exception>
    public async Task<SubjectVersion> Dress(int character, byte[] bytes, string file, CancellationToken cancel = default)
    {
        await using var db = factory.CreateDbContext();
        var subject = await Find(db, character, cancel);
        var kind = MotionFiles.KindOf(file, bytes);
        var glb = kind == FileKind.Bvh ? GltfBones.FromBvh(bytes, file) : GltfReader.Packed(bytes, file);
        var why = $"brought in as {file}" + (kind == FileKind.Bvh ? ", bones without a mesh: each is a plain block" : string.Empty);
        if (GltfBareModel.IsBare(glb, file))
        {
            (glb, var placed, _) = GltfBareModel.Open(glb, file).Bind(cancel: cancel);
            why = string.Join("; ", [why + ", a mesh without a rig: a skeleton was found in it and bound to it", .. placed.Doubts]);
        }

        var opened = GltfCharacter.Open(glb, file);
        var (map, who) = await RoleMapOf(db, subject, opened.Skeleton, cancel);
        var made = opened.Prepare(CharacterDraft.Empty, map);
        if (made.Sheet.Missing.Count > CharacterMap.MostMissing)
        {
            throw new InvalidInputException(
                file,
                "joints",
                $"this is no figure with arms and legs that could be told: no joint was found for {string.Join(", ", made.Sheet.Missing)}"
            );
        }

        why = who is null ? why : $"{why}, roles as {who}'s";
        subject.Draft = string.Empty;
        return await Keep(
            db,
            subject,
            await Version(db, glb, made, map is null ? CharacterMap.Found : CharacterMap.Known, why, cancel),
            cancel
        );
    }

    /// <summary>A performer as labels and the live stage look for them; null when they are not measured.</summary>
    public LabelSubject? Known(int performer)
    {
        using var db = factory.CreateDbContext();
        var found = Current(db, performer);
        if (found is not ({ } subject, { Measured: true } version) || version.Poses.Length == 0)
        {
            return null;
        }

        return memory.Of(version.Content, () =>
        {
            var body = PerformerJson.Read(Encoding.UTF8.GetBytes(version.Body), subject.Name);
            return new LabelSubject(null, body, PoseListJson.Read(version.Poses, body));
        });
    }

    /// <summary>A character's skeleton with its roles, as it is now; null when there is none.</summary>
    public Skeleton? Rig(int character)
    {
        using var db = factory.CreateDbContext();
        return Current(db, character) is ({ Kind: SubjectKind.Character } subject, { BlobId: not null } version)
            ? memory.Of(version.Content, () =>
            {
                using var own = factory.CreateDbContext();
                return Rig(own, blobs, subject, version);
            })
            : null;
    }

    /// <summary>A character in a few strokes, as it is now; null when there is none or its file holds no figure.</summary>
    public FigureSketch? Sketch(int character)
    {
        using var db = factory.CreateDbContext();
        if (Current(db, character) is not ({ Kind: SubjectKind.Character } subject, { BlobId: { } blob } version))
        {
            return null;
        }

        return memory.Of(version.Content, () =>
        {
            using var own = factory.CreateDbContext();
            var binding = GltfReader.GltfBindingOf(GltfReader.Open(blobs.Read(own, blob), subject.Name + ".glb"), subject.Name);
            return FigureSketch.Of(binding, CharacterMap.Assign(binding.Skeleton, version, subject.Name));
        });
    }

    /// <summary>The skeleton in a version's file, with its roles.</summary>
    /// <exception cref="RefusedException">The version has no file, or its roles are not all known.</exception>
    internal static Skeleton Rig(EidolonDb db, BlobStore blobs, Subject character, SubjectVersion version) =>
        CharacterMap.Assign(Binding(db, blobs, character, version).Skeleton, version, character.Name);

    /// <summary>What of a character may not go into the rest of it.</summary>
    internal static BodyVolumes Volumes(EidolonDb db, BlobStore blobs, Subject character, SubjectVersion version)
    {
        var binding = Binding(db, blobs, character, version);
        return VolumeFitter.Fit(CharacterMap.Assign(binding.Skeleton, version, character.Name), GltfSkinPoints.Of(binding));
    }

    private static GltfBinding Binding(EidolonDb db, BlobStore blobs, Subject character, SubjectVersion version)
    {
        var blob = version.BlobId ?? throw new RefusedException($"{character.Name} has no file");
        return GltfReader.GltfBindingOf(GltfReader.Open(blobs.Read(db, blob), character.Name + ".glb"), character.Name);
    }

    /// <summary>A subject with its current version, if it has one.</summary>
    public static (Subject? Subject, SubjectVersion? Version) Current(EidolonDb db, int id)
    {
        var subject = db.Subjects.AsNoTracking().FirstOrDefault(s => s.Id == id);
        return (
            subject,
            db.SubjectVersions.AsNoTracking().FirstOrDefault(v => v.SubjectId == id && subject != null && v.Number == subject.Version)
        );
    }

    /// <summary>Takes a subject back that was added a moment ago and has nothing yet.</summary>
    public async Task Forget(int id, CancellationToken cancel = default)
    {
        await using var db = factory.CreateDbContext();
        await db.Subjects.Where(s => s.Id == id && s.Version == 0).ExecuteDeleteAsync(cancel);
    }

    private async Task<SubjectVersion> Keep(
        EidolonDb db,
        Subject subject,
        SubjectVersion version,
        CancellationToken cancel,
        JobEnd? end = null
    )
    {
        await using var all = await db.Database.BeginTransactionAsync(cancel);
        var last = await db
            .SubjectVersions.Where(v => v.SubjectId == subject.Id)
            .OrderByDescending(v => v.Number)
            .FirstOrDefaultAsync(cancel);
        if (last is not null && last.Content == version.Content && last.Tie == version.Tie && last.Number == subject.Version)
        {
            // Nothing new was said: no version is made, and nothing goes out of date.
            if (end is not null && db.End(end.Job, end.Said(last), time.GetUtcNow().UtcDateTime))
            {
                await all.CommitAsync(cancel);
            }

            return last;
        }

        (version.SubjectId, version.Number, version.CreatedUtc) = (subject.Id, (last?.Number ?? 0) + 1, time.GetUtcNow().UtcDateTime);
        db.SubjectVersions.Add(version);
        subject.Version = version.Number;
        await db.SaveChangesAsync(cancel);
        db.Changed(subject.Id);
        if (end is not null && !db.End(end.Job, end.Said(version), version.CreatedUtc))
        {
            // It was kept by this job before.
            return last ?? version;
        }

        await all.CommitAsync(cancel);
        return version;
    }

    /// <summary>A body that stands on a take, with the poses that labels know it by and its figure.</summary>
    private async Task<SubjectVersion> Embody(
        EidolonDb db,
        Subject subject,
        Performer body,
        MarkerTake markers,
        int take,
        double fit,
        string why,
        CancellationToken cancel,
        JobEnd? end = null
    )
    {
        var poses = PoseListJson.Write(LabelSubject.From(null, body, markers, cancel).Poses);
        var json = PerformerJson.Write(body);
        var figure = await blobs.Keep(db, GltfSkinWriter.Write(body.Skeleton, PerformerFigure.Of(body.Skeleton), subject.Name), cancel);
        return await Keep(
            db,
            subject,
            new SubjectVersion
            {
                Content = ContentHash.Text(ContentHash.Of(json + poses)),
                Body = json,
                Poses = poses,
                Height = body.Stature,
                FitMillimetres = fit * 1000,
                ReferenceTakeId = take,
                BlobId = figure.Id,
                Why = why,
            },
            cancel,
            end
        );
    }

    private static async Task<Subject> Find(EidolonDb db, int id, CancellationToken cancel) =>
        await db.Subjects.FirstOrDefaultAsync(s => s.Id == id, cancel)
        ?? throw new RefusedException("that subject is gone from the library");
}
