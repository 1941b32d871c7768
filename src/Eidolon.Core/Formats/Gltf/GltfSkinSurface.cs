using System.Numerics;
using Eidolon.Core.Characters.Binding;
using SharpGLTF.Schema2;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>All skins of a file as one surface, with what each vertex follows; and the file with other weights.</summary>
public sealed class GltfSkinSurface
{
    private readonly byte[] _glb;
    private readonly string _file;

    private readonly int[] _nodes;

    /// <param name="nodes">Of each bone the number of its node in the file: names need not be single.</param>
    private GltfSkinSurface(byte[] glb, string file, SkinSurface surface, SkinWeights weights, IReadOnlyList<Part> parts, int[] nodes) =>
        (_glb, _file, Surface, Weights, Parts, _nodes) = (glb, file, surface, weights, parts, nodes);

    /// <summary>A primitive of a mesh of the file.</summary>
    /// <param name="Start">Its first vertex of the surface.</param>
    public sealed record Part(int Mesh, int Primitive, int Start, int Count);

    /// <summary>Every vertex of every skin, at rest.</summary>
    public SkinSurface Surface { get; }

    /// <summary>As the file has them.</summary>
    public SkinWeights Weights { get; }

    /// <summary>Where in the surface each primitive of the file lies.</summary>
    public IReadOnlyList<Part> Parts { get; }

    /// <exception cref="RefusedException">No mesh has a skin, or a vertex follows more than four bones.</exception>
    public static GltfSkinSurface Open(byte[] glb, string file)
    {
        var model = GltfReader.Open(glb, file);
        var (places, triangles, parts) = (new List<Vector3>(), new List<int>(), new List<Part>());
        var (joints, weights) = (new List<(ushort, ushort, ushort, ushort)>(), new List<Vector4>());
        var bones = new List<Node>();
        foreach (var (node, k, primitive) in Skinned(model))
        {
            if (primitive.GetVertexAccessor("JOINTS_1") is not null)
            {
                throw new RefusedException($"{file}: mesh '{node.Mesh.Name}' has vertices that follow more than four bones");
            }

            var own = Enumerable.Range(0, node.Skin.JointsCount).Select(node.Skin.GetJoint).ToArray();
            var carried = Array.ConvertAll(own, b => b.InverseBindMatrix * b.Joint.WorldMatrix);
            var index = Array.ConvertAll(own, b => (ushort)Index(bones, b.Joint));
            var (at, bone, share) = (
                primitive.GetVertexAccessor("POSITION").AsVector3Array(),
                primitive.GetVertexAccessor("JOINTS_0").AsVector4Array(),
                primitive.GetVertexAccessor("WEIGHTS_0").AsVector4Array()
            );
            parts.Add(new Part(node.Mesh.LogicalIndex, k, places.Count, at.Count));
            triangles.AddRange(primitive.GetTriangleIndices().SelectMany(t => new[] { t.A, t.B, t.C }).Select(v => v + places.Count));
            for (var v = 0; v < at.Count; v++)
            {
                var w = share[v];
                for (var i = 0; i < 4; i++)
                {
                    // A bone that is none of the skin's moves nothing.
                    w[i] = w[i] > 0 && bone[v][i] < own.Length ? w[i] : 0;
                }

                var sum = w.X + w.Y + w.Z + w.W;
                w = sum > 0 ? w / sum : Vector4.UnitX;
                var place = Vector3.Zero;
                for (var i = 0; i < 4; i++)
                {
                    place += w[i] > 0 ? Vector3.Transform(at[v], carried[Bone(i)]) * w[i] : Vector3.Zero;
                }

                int Bone(int i) => bone[v][i] < own.Length ? (int)bone[v][i] : 0;
                ushort Of(int i) => w[i] > 0 ? index[Bone(i)] : (ushort)0;
                places.Add(place);
                joints.Add((Of(0), Of(1), Of(2), Of(3)));
                weights.Add(w);
            }
        }

        if (parts.Count == 0)
        {
            throw new RefusedException($"{file}: no mesh follows joints, there are no weights to see");
        }

        var above = bones.ConvertAll(b => Above(bones, b));
        var names = bones.ConvertAll(b => string.IsNullOrWhiteSpace(b.Name) ? $"node{b.LogicalIndex}" : b.Name);
        var surface = new SkinSurface(
            [.. places],
            [.. triangles],
            [.. names.Select((n, i) => names.IndexOf(n) == i ? n : $"{n}_{bones[i].LogicalIndex}")],
            above
        );
        return new GltfSkinSurface(
            glb,
            file,
            surface,
            new SkinWeights([.. joints], [.. weights], []),
            parts,
            [.. bones.Select(b => b.LogicalIndex)]
        );
    }

    /// <summary>The file with other weights.</summary>
    public byte[] Write(SkinWeights weights)
    {
        var model = GltfReader.Open(_glb, _file);
        Set(model, weights, Parts);
        using var stream = new MemoryStream();
        model.WriteGLB(stream);
        return stream.ToArray();
    }

    /// <summary>Sets the weights of a file whose skins gave this surface.</summary>
    internal void Set(ModelRoot model, SkinWeights weights, IReadOnlyList<Part> parts)
    {
        foreach (var ((node, _, primitive), part) in Skinned(model).Zip(parts))
        {
            var own = new int[Surface.Bones.Count];
            Array.Fill(own, -1);
            for (var b = 0; b < node.Skin.JointsCount; b++)
            {
                // A bone that moves nothing is none of the surface's.
                if (Array.IndexOf(_nodes, node.Skin.GetJoint(b).Joint.LogicalIndex) is >= 0 and var bone)
                {
                    own[bone] = b;
                }
            }

            var (bones, shares) = (new (ushort, ushort, ushort, ushort)[part.Count], new Vector4[part.Count]);
            for (var v = 0; v < part.Count; v++)
            {
                (bones[v], shares[v]) = Known(own, weights.Joints[part.Start + v], weights.Weights[part.Start + v]);
            }

            GltfSkinAttributes.Set(model, primitive, bones, shares);
        }
    }

    /// <summary>In the numbers of one skin; a bone that this skin has not is left out.</summary>
    private static ((ushort, ushort, ushort, ushort), Vector4) Known(int[] own, (ushort A, ushort B, ushort C, ushort D) j, Vector4 w)
    {
        Span<int> which = [own[j.A], own[j.B], own[j.C], own[j.D]];
        var sum = 0f;
        for (var i = 0; i < 4; i++)
        {
            w[i] = which[i] < 0 ? 0 : w[i];
            sum += w[i];
            which[i] = w[i] > 0 ? which[i] : 0;
        }

        return (((ushort)which[0], (ushort)which[1], (ushort)which[2], (ushort)which[3]), sum > 0 ? w / sum : Vector4.UnitX);
    }

    private static IEnumerable<(Node Node, int Index, MeshPrimitive Primitive)> Skinned(ModelRoot model)
    {
        var seen = new HashSet<Mesh>();
        foreach (var node in model.LogicalNodes.Where(n => n is { Mesh: not null, Skin: not null }))
        {
            if (!seen.Add(node.Mesh))
            {
                continue;
            }

            foreach (var (primitive, k) in node.Mesh.Primitives.Select((p, k) => (p, k)))
            {
                if (primitive.GetVertexAccessor("JOINTS_0") is not null && primitive.GetVertexAccessor("WEIGHTS_0") is not null)
                {
                    yield return (node, k, primitive);
                }
            }
        }
    }

    private static int Index(List<Node> bones, Node joint)
    {
        var at = bones.IndexOf(joint);
        if (at < 0)
        {
            bones.Add(joint);
        }

        return at < 0 ? bones.Count - 1 : at;
    }

    private static int Above(List<Node> bones, Node bone)
    {
        for (var n = bone.VisualParent; n is not null; n = n.VisualParent)
        {
            if (bones.IndexOf(n) is >= 0 and var at)
            {
                return at;
            }
        }

        return -1;
    }
}
