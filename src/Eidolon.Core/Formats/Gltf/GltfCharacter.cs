using Eidolon.Core.Characters.Preparing;
using Eidolon.Core.Clipping;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>A character's file, looked into once, so that drafts of it are answered at once.</summary>
public sealed class GltfCharacter
{
    private readonly byte[] _glb;
    private readonly string _file;

    private GltfCharacter(byte[] glb, string file, GltfBinding binding)
    {
        (_glb, _file, Skeleton, Skin) = (glb, file, binding.Skeleton, GltfSkinPoints.Of(binding));
        var model = binding.Model;
        Meshes = [.. model.LogicalNodes.Where(n => n.Mesh is not null).Select(n => n.Mesh.Name ?? n.Name ?? "mesh").Distinct()];
        Others = model.LogicalNodes.Count(n => n.Camera is not null || n.PunctualLight is not null);
        Animations = model.LogicalAnimations.Count;
    }

    /// <summary>Its joints at rest, metres, without roles.</summary>
    public Skeleton Skeleton { get; }

    /// <summary>Its skin at rest.</summary>
    public SkinPoints Skin { get; }

    /// <summary>Names of its meshes.</summary>
    public IReadOnlyList<string> Meshes { get; }

    /// <summary>Cameras and lights in it.</summary>
    public int Others { get; }

    /// <summary>Animations in it.</summary>
    public int Animations { get; }

    /// <exception cref="InvalidInputException">It is no glTF, or holds no joints.</exception>
    public static GltfCharacter Open(byte[] glb, string file) => new(glb, file, GltfReader.GltfBindingOf(GltfReader.Open(glb, file), file));

    /// <summary>The character with a draft.</summary>
    /// <param name="known">Roles from a map that was kept; null where they are to be found.</param>
    /// <exception cref="RefusedException">A step of the draft cannot be done.</exception>
    public PreparedCharacter Prepare(CharacterDraft draft, IReadOnlyDictionary<BodyRole, string>? known = null) =>
        PreparedCharacter.Of(Skeleton, Skin, draft, known);

    /// <summary>The file as a draft makes it: the very file where neither size nor rest pose is changed.</summary>
    public byte[] Write(PreparedCharacter prepared)
    {
        var sized = Math.Abs(prepared.Draft.Size - 1) > 1e-9 ? GltfWriter.Sized(_glb, _file, (float)prepared.Draft.Size) : _glb;
        if (ReferenceEquals(prepared.Proposed, prepared.Came))
        {
            return sized;
        }

        using var bytes = new MemoryStream();
        GltfWriter.WriteAtRest(bytes, sized, _file, prepared.Proposed);
        return bytes.ToArray();
    }
}
