using System.Numerics;
using Eidolon.Core;
using Eidolon.Core.Characters.Binding;
using Eidolon.Core.Characters.Preparing;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Skeletons;
using Eidolon.Storage.Model;

namespace Eidolon.Storage.Library;

/// <summary>How a character's skin follows its joints: painted, or bound anew with joints put elsewhere.</summary>
public sealed partial class SubjectLibrary
{
    /// <summary>A mirror image may lie so far from the nearest vertex, as a share of the height.</summary>
    private const float MirrorReach = .03f;

    /// <summary>The largest brush, metres.</summary>
    private const float LargestBrush = .5f;

    /// <summary>A stroke as a person makes it.</summary>
    /// <param name="Path">Vertices of the skin.</param>
    /// <param name="Radius">Metres of the figure as it is shown.</param>
    /// <param name="Mirror">On the other side as well.</param>
    public sealed record Stroke(WeightBrush Brush, string Bone, IReadOnlyList<int> Path, float Radius, float Strength, bool Mirror);

    /// <summary>Weights as the draft has them now; null where there is no such character.</summary>
    /// <exception cref="RefusedException">No mesh of it has a skin.</exception>
    public (GltfSkinSurface Skin, SkinWeights Weights)? Weights(int character) =>
        Prepare(character) is { } now ? (now.File.Painted, now.File.Weights(now.Made.Draft)) : null;

    /// <summary>Paints over the weights: one more step of the draft.</summary>
    /// <returns>The weights after it, and the vertices that changed.</returns>
    /// <exception cref="RefusedException">The character is locked, or the stroke is not on its skin.</exception>
    public async Task<(SkinWeights Weights, IReadOnlyList<int> Changed)> Paint(
        int character,
        Stroke stroke,
        CancellationToken cancel = default
    )
    {
        var now = Prepare(character) ?? throw new RefusedException("there is no such character");
        var step = Step(now, stroke);
        await Change(character, step, cancel);
        return Difference(now, now.Made.Draft.With(step));
    }

    /// <summary>Takes the last change back.</summary>
    /// <returns>The weights after it, and the vertices that changed.</returns>
    public async Task<(SkinWeights Weights, IReadOnlyList<int> Changed)> Unpaint(int character, CancellationToken cancel = default)
    {
        var now = Prepare(character) ?? throw new RefusedException("there is no such character");
        if (now.Made.Draft.Steps is not [.., WeightStep])
        {
            throw new RefusedException("the last change was no stroke: take it back at Roles");
        }

        await Change(character, null, cancel);
        return Difference(now, now.Made.Draft.Back());
    }

    /// <summary>Binds the mesh anew with joints put elsewhere, and keeps that as the next version; strokes over the old weights end with it.</summary>
    /// <param name="moved">Metres of the file, by role.</param>
    /// <exception cref="RefusedException">The file has no standard skeleton as it was bound, the character is locked, or a joint lies outside.</exception>
    public async Task<SubjectVersion> Rebind(
        int character,
        IReadOnlyDictionary<BodyRole, Vector3> moved,
        IProgress<double>? progress,
        CancellationToken cancel = default,
        JobEnd? end = null
    )
    {
        await using var db = factory.CreateDbContext();
        var subject = await Find(db, character, cancel);
        if (subject.Draft is null)
        {
            throw new RefusedException($"{subject.Name} is locked: unlock it first");
        }

        if (Current(db, character) is not (_, { BlobId: { } blob } version))
        {
            throw new RefusedException($"{subject.Name} has no file");
        }

        var file = subject.Name + ".glb";
        var glb = GltfRebinder.Bind(blobs.Read(db, blob), file, moved, progress, cancel);
        var opened = GltfCharacter.Open(glb, file);
        var made = opened.Prepare(CharacterDraft.Empty, CharacterMap.Of(version, opened.Skeleton, subject.Name));
        // What was said of roles stays; strokes were over weights that are no more.
        var draft = CharacterDraftJson.Read(subject.Draft);
        subject.Draft = CharacterDraftJson.Write(new CharacterDraft([.. draft.Steps.Where(s => s is not WeightStep)]));
        var why = $"bound anew, {moved.Count} joint{(moved.Count == 1 ? string.Empty : "s")} put elsewhere";
        return await Keep(db, subject, await Version(db, glb, made, CharacterMap.Found, why, cancel), cancel, end);
    }

    private static WeightStep Step(Preparation now, Stroke s)
    {
        var surface = now.File.Painted.Surface;
        // It comes from outside: anything of it may be missing.
        if (
            s.Path is not { Count: > 0 and <= WeightStep.Longest }
            || !Enum.IsDefined(s.Brush)
            || !(s.Radius is > 0 and <= LargestBrush)
            || !(s.Strength is > 0 and <= 1)
            || s.Bone is null
            || !surface.Bones.Contains(s.Bone)
            || s.Path.Any(v => v < 0 || v >= surface.Places.Length)
        )
        {
            throw new RefusedException("the stroke is not on this character's skin");
        }

        var size = (float)now.Made.Draft.Size;
        var (other, path) = s.Mirror ? Mirrored(now, s) : (null, []);
        return new WeightStep(s.Brush, s.Bone, s.Path, s.Radius / size, s.Strength, other, path);
    }

    /// <summary>The same stroke on the other side; none where the bone or the skin has no other side.</summary>
    private static (string? Bone, IReadOnlyList<int> Path) Mirrored(Preparation now, Stroke s)
    {
        var (roles, skeleton, surface) = (now.Made.Sheet.Roles, now.File.Skeleton, now.File.Painted.Surface);
        if (RoleMirror.Plane(skeleton, roles) is not var (middle, across))
        {
            return (null, []);
        }

        var bone = now.Made.Sheet.Of(s.Bone) is { } role
            ? BodyRoles.Side(role) == 'C'
                ? s.Bone
                : roles.GetValueOrDefault(BodyRoles.Mirror(role))
            : null;
        var reach = MirrorReach * Tall(surface.Places);
        return bone is null || !surface.Bones.Contains(bone)
            ? (null, [])
            : (bone, [.. s.Path.Select(v => surface.Mirrored(v, middle, across, reach)).Where(v => v >= 0).Distinct()]);
    }

    private static float Tall(Vector3[] places) => places.Max(p => p.Y) - places.Min(p => p.Y);

    private static (SkinWeights Weights, IReadOnlyList<int> Changed) Difference(Preparation now, CharacterDraft next)
    {
        var (before, after) = (now.File.Weights(now.Made.Draft), now.File.Weights(next));
        return (
            after,
            [
                .. Enumerable
                    .Range(0, after.Joints.Length)
                    .Where(v => after.Joints[v] != before.Joints[v] || after.Weights[v] != before.Weights[v]),
            ]
        );
    }
}
