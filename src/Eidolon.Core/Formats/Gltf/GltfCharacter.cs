using System.Numerics;
using Eidolon.Core.Characters.Binding;
using Eidolon.Core.Characters.Preparing;
using Eidolon.Core.Clipping;
using Eidolon.Core.Skeletons;
using SharpGLTF.Schema2;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>A character's file, looked into once, so that drafts of it are answered at once.</summary>
public sealed class GltfCharacter
{
    private readonly byte[] _glb;
    private readonly string _file;
    private readonly GltfBinding _binding;
    private readonly Lazy<GltfSkinSurface> _painted;
    private readonly Lazy<IReadOnlyDictionary<BodyRole, Vector3>?> _placed;
    private readonly Lock _gate = new();

    /// <summary>The last states of painting: as many strokes, and the weights after them.</summary>
    private readonly List<(IReadOnlyList<WeightStep> Strokes, SkinWeights Weights)> _states = [];

    private const int MostStates = 12;

    private GltfCharacter(byte[] glb, string file, GltfBinding binding)
    {
        (_glb, _file, _binding, Skeleton, Skin) = (glb, file, binding, binding.Skeleton, GltfSkinPoints.Of(binding));
        var model = binding.Model;
        Meshes = [.. model.LogicalNodes.Where(n => n.Mesh is not null).Select(NameOf).Distinct()];
        Others = model.LogicalNodes.Count(n => n.Camera is not null || n.PunctualLight is not null);
        Animations = model.LogicalAnimations.Count;
        _painted = new(() => GltfSkinSurface.Open(_glb, _file));
        _placed = new(() => GltfRebinder.Places(_glb, _file));
    }

    /// <summary>Its joints at rest, metres, without roles.</summary>
    public Skeleton Skeleton { get; }

    /// <summary>Its skin at rest.</summary>
    public SkinPoints Skin { get; }

    /// <summary>Names of its meshes.</summary>
    public IReadOnlyList<string> Meshes { get; }

    /// <summary>What the mesh of a node is called.</summary>
    internal static string NameOf(Node node) => node.Mesh.Name ?? node.Name ?? "mesh";

    /// <summary>Cameras and lights in it.</summary>
    public int Others { get; }

    /// <summary>Animations in it.</summary>
    public int Animations { get; }

    /// <exception cref="InvalidInputException">It is no glTF, or holds no joints.</exception>
    public static GltfCharacter Open(byte[] glb, string file) => new(glb, file, GltfReader.GltfBindingOf(GltfReader.Open(glb, file), file));

    /// <summary>The character with a draft.</summary>
    /// <param name="known">Roles from a map that was kept; null where they are to be found.</param>
    /// <exception cref="RefusedException">A step of the draft cannot be done.</exception>
    public PreparedCharacter Prepare(CharacterDraft draft, IReadOnlyDictionary<BodyRole, string>? known = null)
    {
        var leftOut = draft.LeftOut;
        if (leftOut.FirstOrDefault(n => !Meshes.Contains(n)) is { } unknown)
        {
            throw new RefusedException($"there is no mesh '{unknown}' in this character");
        }

        return leftOut.Count > 0 && Meshes.All(leftOut.Contains)
            ? throw new RefusedException("one mesh at least must stay: without any there is nothing to see")
            : PreparedCharacter.Of(Skeleton, leftOut.Count > 0 ? GltfSkinPoints.Of(_binding, leftOut) : Skin, draft, known);
    }

    /// <summary>Its skins as a surface to paint on.</summary>
    /// <exception cref="RefusedException">No mesh has a skin, or a vertex follows more than four bones.</exception>
    public GltfSkinSurface Painted => _painted.Value;

    /// <summary>Where the joints of a standard skeleton stand that its mesh was bound to, metres; null where it has another rig.</summary>
    public IReadOnlyDictionary<BodyRole, Vector3>? Placed => _placed.Value;

    /// <summary>The weights after the strokes of a draft; what was painted a moment ago is not painted again.</summary>
    /// <exception cref="RefusedException">A stroke is not on this skin.</exception>
    public SkinWeights Weights(CharacterDraft draft)
    {
        var strokes = draft.Strokes;
        lock (_gate)
        {
            var known = _states.FindLast(s => s.Strokes.Count <= strokes.Count && s.Strokes.SequenceEqual(strokes.Take(s.Strokes.Count)));
            var weights = known.Weights ?? Painted.Weights;
            for (var k = known.Strokes?.Count ?? 0; k < strokes.Count; k++)
            {
                weights = Stroked(weights, strokes[k]);
                _states.Add(([.. strokes.Take(k + 1)], weights));
                _states.RemoveRange(0, Math.Max(0, _states.Count - MostStates));
            }

            return weights;
        }
    }

    private SkinWeights Stroked(SkinWeights weights, WeightStep step)
    {
        var surface = Painted.Surface;
        int Bone(string name) => surface.Bones.ToList().IndexOf(name);
        weights = WeightPainter.Stroke(surface, weights, step.Brush, Bone(step.Bone), step.Path, step.Radius, step.Strength).Weights;
        return step.Other is { } other && step.OtherPath.Count > 0
            ? WeightPainter.Stroke(surface, weights, step.Brush, Bone(other), step.OtherPath, step.Radius, step.Strength).Weights
            : weights;
    }

    /// <summary>The file as a draft makes it: the very file where neither meshes, weights, size nor rest pose are changed.</summary>
    public byte[] Write(PreparedCharacter prepared)
    {
        var draft = prepared.Draft;
        var glb = draft.Strokes.Count > 0 ? Painted.Write(Weights(draft)) : _glb;
        glb = draft.LeftOut.Count > 0 ? GltfWriter.Without(glb, _file, draft.LeftOut) : glb;
        var sized = Math.Abs(draft.Size - 1) > 1e-9 ? GltfWriter.Sized(glb, _file, (float)draft.Size) : glb;
        if (ReferenceEquals(prepared.Proposed, prepared.Came))
        {
            return sized;
        }

        using var bytes = new MemoryStream();
        GltfWriter.WriteAtRest(bytes, sized, _file, prepared.Proposed);
        return bytes.ToArray();
    }
}
