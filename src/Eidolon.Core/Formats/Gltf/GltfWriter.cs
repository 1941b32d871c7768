using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;
using SharpGLTF.Schema2;
using SharpGLTF.Transforms;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>Writes GLB: a bare skeleton with its motion, or a character with a new motion in place of its own.</summary>
public static class GltfWriter
{
    /// <summary>Nodes and one animation; no mesh. Always metres and Y up, as the standard asks.</summary>
    public static void WriteSkeleton(Stream stream, Motion motion, string name = "Motion")
    {
        var model = ModelRoot.CreateModel();
        var scene = model.UseScene("Scene");
        var s = motion.Skeleton;
        var nodes = new Node[s.Count];
        for (var j = 0; j < s.Count; j++)
        {
            nodes[j] = s.Parents[j] < 0 ? scene.CreateNode(s[j].Name) : nodes[s.Parents[j]].CreateNode(s[j].Name);
            nodes[j].LocalTransform = new AffineTransform(null, s[j].RestRotation, s[j].Offset);
            if (s[j].Role is { } role)
            {
                nodes[j].Extras = new JsonObject { ["role"] = role.ToString() };
            }
        }

        Animate(GltfBindingFor(model, motion), motion, name);
        model.WriteGLB(stream);
    }

    /// <summary>Replaces the character's animations by <paramref name="motion"/>, whose skeleton is the binding's.</summary>
    public static void WriteCharacter(Stream stream, byte[] character, string file, Motion motion, string name = "Motion")
    {
        // Which nodes are joints can depend on what is animated, so that is asked before the old animations go.
        var joints = GltfReader.GltfBindingOf(GltfReader.Open(character, file), file).Nodes.Select(n => n.LogicalIndex).ToHashSet();
        var binding = GltfBinding.Create(GltfReader.Open(GltfContainer.WithoutAnimations(character, file), file), file, joints);
        if (binding.Skeleton.Count != motion.Skeleton.Count)
        {
            throw new ArgumentException("The motion is not on this character's skeleton.", nameof(motion));
        }

        Animate(binding, motion, name);
        binding.Model.WriteGLB(stream);
    }

    /// <summary>The character's own file with another rest pose and without its animations: nodes turn, the mesh goes along by its weights.</summary>
    /// <param name="rest">The character's own skeleton with other rest turns and another place of its root.</param>
    /// <exception cref="ArgumentException">It is another skeleton.</exception>
    public static void WriteAtRest(Stream stream, byte[] character, string file, Skeleton rest)
    {
        var joints = GltfReader.GltfBindingOf(GltfReader.Open(character, file), file).Nodes.Select(n => n.LogicalIndex).ToHashSet();
        var binding = GltfBinding.Create(GltfReader.Open(GltfContainer.WithoutAnimations(character, file), file), file, joints);
        if (binding.Skeleton.Count != rest.Count)
        {
            throw new ArgumentException("The rest pose is not of this character's skeleton.", nameof(rest));
        }

        for (var j = 0; j < rest.Count; j++)
        {
            var (q, p) = binding.ToNode(j, rest[j].RestRotation, rest[j].Offset);
            var node = binding.Nodes[j];
            node.LocalTransform = new SharpGLTF.Transforms.AffineTransform(node.LocalTransform.Scale, Quaternion.Normalize(q), p);
        }

        binding.Model.WriteGLB(stream);
    }

    /// <summary>The same file so many times as large, without its animations: what stands at the top of its scenes is changed, and skins follow.</summary>
    public static byte[] Sized(byte[] character, string file, float factor)
    {
        var model = GltfReader.Open(GltfContainer.WithoutAnimations(character, file), file);
        foreach (var node in model.LogicalNodes.Where(n => n is { VisualParent: null, Skin: null }))
        {
            var own = node.LocalTransform.GetDecomposed();
            node.LocalTransform = new AffineTransform(own.Scale * factor, own.Rotation, own.Translation * factor);
        }

        using var bytes = new MemoryStream();
        model.WriteGLB(bytes);
        return bytes.ToArray();
    }

    /// <summary>A character without some of its meshes, which nothing shows any more.</summary>
    public static byte[] Without(byte[] character, string file, IReadOnlySet<string> meshes)
    {
        var model = GltfReader.Open(GltfContainer.WithoutAnimations(character, file), file);
        foreach (var node in model.LogicalNodes.Where(n => n.Mesh is not null && meshes.Contains(GltfCharacter.NameOf(n))).ToList())
        {
            (node.Skin, node.Mesh) = (null, null);
        }

        using var bytes = new MemoryStream();
        model.WriteGLB(bytes);
        return bytes.ToArray();
    }

    /// <summary>What a writer makes of GLB, as text with its buffers embedded.</summary>
    public static void WriteText(Stream stream, string file, Action<Stream> glb)
    {
        using var bytes = new MemoryStream();
        glb(bytes);
        stream.Write(GltfContainer.AsText(bytes.ToArray(), file));
    }

    private static GltfBinding GltfBindingFor(ModelRoot model, Motion motion)
    {
        var binding = GltfBinding.Create(model, "new file");
        if (binding.Skeleton.Count != motion.Skeleton.Count)
        {
            throw new InvalidOperationException("The written tree does not match the skeleton.");
        }

        return binding;
    }

    private static void Animate(GltfBinding binding, Motion motion, string name)
    {
        var animation = binding.Model.CreateAnimation(name);
        animation.Extras = new JsonObject { ["frameRate"] = motion.FrameRate };
        var s = binding.Skeleton;
        // The tree order of the binding can differ from the motion's; names are unique in both.
        for (var j = 0; j < s.Count; j++)
        {
            var from = motion.Skeleton.IndexOf(s[j].Name);
            from = from < 0 ? j : from;
            var turns = new Dictionary<float, Quaternion>(motion.FrameCount);
            var places = new Dictionary<float, Vector3>(motion.FrameCount);
            var moves = false;
            for (var f = 0; f < motion.FrameCount; f++)
            {
                var t = (float)((motion.FirstFrame + f) / motion.FrameRate);
                var at = (f * s.Count) + from;
                var (q, p) = binding.ToNode(j, motion.Rotations[at], motion.Translations[at]);
                turns[t] = Quaternion.Normalize(q);
                places[t] = p;
                moves |= (motion.Translations[at] - motion.Skeleton[from].Offset).LengthSquared() > 1e-13f;
            }

            animation.CreateRotationChannel(binding.Nodes[j], turns, true);
            if (moves || s.Parents[j] < 0)
            {
                animation.CreateTranslationChannel(binding.Nodes[j], places, true);
            }

            Along(animation, binding, j, turns);
        }

        Faces(animation, binding, motion);
    }

    /// <summary>What was recorded of a face, on meshes that have shapes of the same names.</summary>
    private static void Faces(Animation animation, GltfBinding binding, Motion motion)
    {
        foreach (var node in binding.Model.LogicalNodes.Where(n => n.Mesh is not null))
        {
            var names = GltfContents.MorphNames(node.Mesh);
            if (!names.Any(motion.Morphs.ContainsKey))
            {
                continue;
            }

            var keys = new Dictionary<float, float[]>(motion.FrameCount);
            for (var f = 0; f < motion.FrameCount; f++)
            {
                var t = (float)((motion.FirstFrame + f) / motion.FrameRate);
                keys[t] = [.. names.Select(n => motion.Morphs.TryGetValue(n, out var w) ? w[f] : 0)];
            }

            animation.CreateMorphChannel(node, keys, names.Count, true);
        }
    }

    /// <summary>Bones of the skin that take a share of a joint's turn from rest.</summary>
    private static void Along(Animation animation, GltfBinding binding, int joint, Dictionary<float, Quaternion> turns)
    {
        var node = binding.Nodes[joint];
        foreach (var helper in node.VisualParent?.VisualChildren ?? [])
        {
            if (GltfHelpers.Of(helper) is not var (name, share) || name != node.Name)
            {
                continue;
            }

            var rest = helper.LocalTransform.GetDecomposed().Rotation;
            animation.CreateRotationChannel(helper, turns.ToDictionary(t => t.Key, t => Rotations.Slerp(rest, t.Value, share)), true);
        }
    }
}
