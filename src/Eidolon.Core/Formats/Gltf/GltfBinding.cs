using System.Numerics;
using Eidolon.Core.Skeletons;
using SharpGLTF.Schema2;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>
/// Ties a glTF scene's nodes to a skeleton in metres. Static nodes above the skeleton are folded into its roots, node scales into
/// the lengths, so that a joint's local values are plain turns and metres; <see cref="Scale"/> and <see cref="Fold"/> lead back.
/// </summary>
public sealed class GltfBinding
{
    private GltfBinding(ModelRoot model, Skeleton skeleton, Node[] nodes, float[] scale, Matrix4x4[] fold, List<string> warnings) =>
        (Model, Skeleton, Nodes, Scale, Fold, Warnings) = (model, skeleton, nodes, scale, fold, warnings);

    /// <summary>The file.</summary>
    public ModelRoot Model { get; }

    /// <summary>Its joints at rest, metres and y up.</summary>
    public Skeleton Skeleton { get; }

    /// <summary>The node of each joint.</summary>
    public IReadOnlyList<Node> Nodes { get; }

    /// <summary>Metres per unit of each node's own translation.</summary>
    public IReadOnlyList<float> Scale { get; }

    /// <summary>World matrix of the static parent of each root joint (identity for others).</summary>
    public IReadOnlyList<Matrix4x4> Fold { get; }

    /// <summary>What was odd about the file and how it was read.</summary>
    public List<string> Warnings { get; }

    /// <param name="chosen">Logical indices of the nodes that are joints, when that is known already; otherwise they are found.</param>
    public static GltfBinding Create(ModelRoot model, string file, IReadOnlySet<int>? chosen = null)
    {
        var warnings = new List<string>();
        var animated = model
            .LogicalAnimations.SelectMany(a => a.Channels)
            .Where(c => c.TargetNode is not null && c.TargetNodePath != PropertyPath.weights)
            .Select(c => c.TargetNode)
            .ToHashSet();
        var nodes = chosen is null ? JointNodes(model, animated) : InTreeOrder(model, n => chosen.Contains(n.LogicalIndex));
        if (nodes.Count == 0)
        {
            throw new InvalidInputException(
                file,
                "nodes",
                "the file holds no joints: neither a skin nor animated nodes nor a tree of empty nodes"
            );
        }

        if (nodes.Count > 20000)
        {
            throw new InvalidInputException(file, "nodes", $"{nodes.Count} joints are more than can be used");
        }

        var index = new Dictionary<Node, int>();
        var joints = new List<Joint>();
        var scale = new List<float>();
        var fold = new List<Matrix4x4>();
        var names = new HashSet<string>(StringComparer.Ordinal);
        foreach (var node in nodes)
        {
            var parent = node.VisualParent is { } v && index.TryGetValue(v, out var p) ? p : -1;
            var above = parent >= 0 || node.VisualParent is null ? Matrix4x4.Identity : node.VisualParent.WorldMatrix;
            if (!Matrix4x4.Decompose(above, out var s, out var turn, out _))
            {
                throw new InvalidInputException(
                    file,
                    $"node '{node.VisualParent?.Name}'",
                    "its transform is sheared or flat and cannot carry a skeleton"
                );
            }

            var own = parent >= 0 ? scale[parent] * UniformScale(nodes[parent], warnings) : MeanScale(s, node.Name, warnings);
            var local = node.LocalTransform.GetDecomposed();
            var rotation = Unit(local.Rotation);
            var offset = parent >= 0 ? local.Translation * own : Vector3.Transform(local.Translation, above);
            rotation = parent >= 0 ? rotation : Quaternion.Normalize(turn * rotation);
            if (!float.IsFinite(offset.X + offset.Y + offset.Z) || !float.IsFinite(rotation.X + rotation.W))
            {
                throw new InvalidInputException(file, $"node {node.LogicalIndex}", "its transform holds no usable numbers");
            }

            var name = string.IsNullOrWhiteSpace(node.Name) ? $"node{node.LogicalIndex}" : node.Name;
            while (!names.Add(name))
            {
                name += $"_{node.LogicalIndex}";
            }

            index[node] = joints.Count;
            joints.Add(new Joint(name, parent, offset) { RestRotation = rotation });
            scale.Add(own);
            fold.Add(above);
        }

        return new GltfBinding(model, new Skeleton(joints), [.. nodes], [.. scale], [.. fold], warnings);
    }

    /// <summary>A joint's local values from its node's.</summary>
    public (Quaternion Rotation, Vector3 Translation) FromNode(int joint, Quaternion rotation, Vector3 translation)
    {
        if (Skeleton.Parents[joint] >= 0)
        {
            return (Unit(rotation), translation * Scale[joint]);
        }

        Matrix4x4.Decompose(Fold[joint], out _, out var turn, out _);
        return (Quaternion.Normalize(turn * Unit(rotation)), Vector3.Transform(translation, Fold[joint]));
    }

    /// <summary>A node's local values from its joint's.</summary>
    public (Quaternion Rotation, Vector3 Translation) ToNode(int joint, Quaternion rotation, Vector3 translation)
    {
        if (Skeleton.Parents[joint] >= 0)
        {
            return (rotation, translation / Scale[joint]);
        }

        Matrix4x4.Decompose(Fold[joint], out _, out var turn, out _);
        Matrix4x4.Invert(Fold[joint], out var inverse);
        return (Quaternion.Normalize(Quaternion.Conjugate(turn) * rotation), Vector3.Transform(translation, inverse));
    }

    private static Quaternion Unit(Quaternion q) => q.LengthSquared() > 1e-12f ? Quaternion.Normalize(q) : Quaternion.Identity;

    private static float UniformScale(Node node, List<string> warnings) =>
        MeanScale(node.LocalTransform.GetDecomposed().Scale, node.Name, warnings);

    private static float MeanScale(Vector3 s, string? name, List<string> warnings)
    {
        var mean = (s.X + s.Y + s.Z) / 3;
        if (MathF.Abs(s.X - mean) + MathF.Abs(s.Y - mean) + MathF.Abs(s.Z - mean) > 1e-3f * MathF.Abs(mean))
        {
            warnings.Add($"node '{name}' is scaled unevenly; its mean scale is used");
        }

        return mean == 0 ? 1 : mean;
    }

    /// <summary>
    /// Skin joints and what lies between them and animated nodes above them; without a skin the animated trees; otherwise every node that is no
    /// mesh.
    /// </summary>
    private static List<Node> JointNodes(ModelRoot model, HashSet<Node> animated)
    {
        var chosen = new HashSet<Node>();
        foreach (var skin in model.LogicalSkins)
        {
            for (var i = 0; i < skin.JointsCount; i++)
            {
                chosen.Add(skin.GetJoint(i).Joint);
            }
        }

        if (chosen.Count > 0)
        {
            foreach (var node in chosen.ToArray())
            {
                AddBetween(node, chosen, animated);
            }
        }
        else if (animated.Count > 0)
        {
            foreach (var node in animated.ToArray())
            {
                AddBetween(node, animated, animated);
                chosen.UnionWith(Flatten(node).Where(IsPlain));
            }

            chosen.UnionWith(animated);
        }
        else
        {
            chosen.UnionWith(model.LogicalNodes.Where(IsPlain));
        }

        return InTreeOrder(model, n => chosen.Contains(n) && GltfHelpers.Of(n) is null);
    }

    private static List<Node> InTreeOrder(ModelRoot model, Func<Node, bool> pick) =>
        [
            .. model
                .LogicalScenes.SelectMany(s => s.VisualChildren)
                .Concat(model.LogicalNodes.Where(n => n.VisualParent is null))
                .Distinct()
                .SelectMany(Flatten)
                .Where(pick),
        ];

    private static void AddBetween(Node node, HashSet<Node> chosen, HashSet<Node> animated)
    {
        var path = new List<Node>();
        for (var up = node.VisualParent; up is not null; up = up.VisualParent)
        {
            path.Add(up);
            if (chosen.Contains(up) || animated.Contains(up))
            {
                chosen.UnionWith(path);
                path.Clear();
            }
        }
    }

    private static bool IsPlain(Node n) => n.Mesh is null && n.Camera is null;

    private static IEnumerable<Node> Flatten(Node node)
    {
        var stack = new Stack<Node>();
        stack.Push(node);
        while (stack.TryPop(out var n))
        {
            yield return n;
            foreach (var c in n.VisualChildren.Reverse())
            {
                stack.Push(c);
            }
        }
    }
}
