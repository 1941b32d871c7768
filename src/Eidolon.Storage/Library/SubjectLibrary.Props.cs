using System.Numerics;
using Eidolon.Core;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Markers;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Library;

/// <summary>Props: markers that say where they are, and models that show them.</summary>
public sealed partial class SubjectLibrary
{
    /// <summary>A prop by its markers. A model it has goes along.</summary>
    public Task<SubjectVersion> Shape(int prop, RigidBody body, string tie, string why, CancellationToken cancel = default) =>
        Reshape(prop, body, tie, why, null, cancel);

    /// <summary>A prop's frame put elsewhere within it; its markers and its model stay where they are in the room.</summary>
    /// <param name="move">In the frame as it is, metres.</param>
    /// <exception cref="RefusedException">It is gone from the library, or has no markers.</exception>
    public async Task<SubjectVersion> Pivot(int prop, Vector3 move, Quaternion turn, string tie, CancellationToken cancel = default)
    {
        await using var db = factory.CreateDbContext();
        var body = Body(db, prop);
        var by = Matrix4x4.CreateTranslation(-move) * Matrix4x4.CreateFromQuaternion(Quaternion.Conjugate(Quaternion.Normalize(turn)));
        return await Reshape(prop, body.WithPivot(move, turn), tie, "pivot moved", by, cancel);
    }

    /// <summary>A prop is seen as this model from now on, in every take it is in; what holds it holds that.</summary>
    /// <exception cref="InvalidInputException">The file is no model of a prop; nothing is kept.</exception>
    /// <exception cref="RefusedException">The prop is gone from the library, or has no markers.</exception>
    public async Task<SubjectVersion> Model(int prop, byte[] bytes, string file, PropModelFit fit, CancellationToken cancel = default)
    {
        await using var db = factory.CreateDbContext();
        var (glb, size) = GltfPropModel.Fit(bytes, file, Body(db, prop).Markers, fit);
        var blob = await blobs.Keep(db, glb, cancel);
        return await Seen(db, prop, blob, $"seen as {file}, {size.X:0.00} × {size.Y:0.00} × {size.Z:0.00} m", cancel);
    }

    /// <summary>A prop is seen by its markers alone from now on.</summary>
    /// <exception cref="RefusedException">The prop is gone from the library, or has no markers.</exception>
    public async Task<SubjectVersion> Bare(int prop, CancellationToken cancel = default)
    {
        await using var db = factory.CreateDbContext();
        _ = Body(db, prop);
        return await Seen(db, prop, null, "model taken off", cancel);
    }

    /// <summary>Every prop that has markers.</summary>
    public IReadOnlyList<(Subject Subject, RigidBody Body)> Props()
    {
        using var db = factory.CreateDbContext();
        var props = db.Shelf.AsNoTracking().Where(s => s.Kind == SubjectKind.Prop && s.Version > 0).OrderBy(s => s.Name).ToList();
        return
        [
            .. props
                .Select(s =>
                    (Subject: s, Version: db.SubjectVersions.AsNoTracking().First(v => v.SubjectId == s.Id && v.Number == s.Version))
                )
                .Where(x => x.Version.Body.Length > 0)
                .Select(x => (x.Subject, RigidBodyJson.Read(x.Version.Body, x.Subject.Name))),
        ];
    }

    private async Task<SubjectVersion> Reshape(int prop, RigidBody body, string tie, string why, Matrix4x4? moved, CancellationToken cancel)
    {
        await using var db = factory.CreateDbContext();
        var subject = await Find(db, prop, cancel);
        var blob = Current(db, prop).Version?.BlobId is { } id
            ? await db.Blobs.AsNoTracking().FirstOrDefaultAsync(b => b.Id == id, cancel)
            : null;
        if (blob is not null && moved is { } by)
        {
            blob = await blobs.Keep(db, GltfPropModel.Moved(blobs.Read(db, blob.Id), subject.Name, by), cancel);
        }

        return await Keep(db, subject, Prop(RigidBodyJson.Write(body), blob, tie, why), cancel);
    }

    private async Task<SubjectVersion> Seen(EidolonDb db, int prop, Blob? blob, string why, CancellationToken cancel)
    {
        var version = Current(db, prop).Version!;
        return await Keep(db, await Find(db, prop, cancel), Prop(version.Body, blob, version.Tie, why), cancel);
    }

    /// <summary>Where a prop is depends on its markers alone; the model only makes it another version.</summary>
    private static SubjectVersion Prop(string json, Blob? blob, string tie, string why) =>
        new()
        {
            Content = ContentHash.Text(ContentHash.Of(json + blob?.Hash)),
            Body = json,
            BlobId = blob?.Id,
            Tie = tie,
            Why = why,
        };

    private static RigidBody Body(EidolonDb db, int prop) =>
        Current(db, prop) is ({ Kind: SubjectKind.Prop } subject, { Body.Length: > 0 } version)
            ? RigidBodyJson.Read(version.Body, subject.Name)
            : throw new RefusedException("that prop is gone from the library, or has no markers");
}
