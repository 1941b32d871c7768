using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Characters;
using Eidolon.Core.Characters.Binding;
using Eidolon.Core.Skeletons;
using SharpGLTF.Memory;
using SharpGLTF.Schema2;
using SharpGLTF.Transforms;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>A glTF whose meshes have no rig: all of them as one, and the same file once they are bound to a skeleton.</summary>
public sealed class GltfBareModel
{
    private readonly ModelRoot _model;
    private readonly string _file;
    private readonly List<(MeshPrimitive Primitive, int Start, Matrix4x4 World)> _parts = [];

    private GltfBareModel(ModelRoot model, string file) => (_model, _file) = (model, file);

    /// <summary>Every triangle of the file where its node puts it.</summary>
    public BareMesh Mesh { get; private set; } = new([], []);

    /// <param name="bytes">Of a GLB, or of text with its buffers packed in.</param>
    /// <exception cref="InvalidInputException">It has a rig already, no mesh, or is damaged.</exception>
    public static GltfBareModel Open(byte[] bytes, string file)
    {
        var model = GltfReader.Open(GltfContainer.WithoutAnimations(bytes, file), file);
        if (model.LogicalSkins.Count > 0)
        {
            throw new InvalidInputException(file, "skins", "the mesh has a rig already; only one without a rig is bound to a new one");
        }

        var bare = new GltfBareModel(model, file);
        bare.Gather();
        return bare;
    }

    /// <summary>True where there is a mesh but no skin, and no nodes that could be a person's joints.</summary>
    public static bool IsBare(byte[] bytes, string file)
    {
        var model = GltfReader.Open(bytes, file);
        if (model.LogicalSkins.Count > 0 || model.LogicalMeshes.Count == 0)
        {
            return false;
        }

        try
        {
            return !RoleFinder.Find(GltfBinding.Create(model, file).Skeleton).Complete;
        }
        catch (InvalidInputException)
        {
            return true;
        }
    }

    /// <summary>The file with a standard skeleton found in its shape, and its meshes bound to it; done once.</summary>
    /// <param name="given">Joints whose places are known; see <see cref="SkeletonPlacer"/>.</param>
    /// <param name="progress">From 0 to 1.</param>
    /// <param name="cancel">Stops it.</param>
    /// <exception cref="RefusedException">It is no person who stands upright.</exception>
    public (byte[] Glb, PlacedSkeleton Placed, SkinWeights Weights) Bind(
        IReadOnlyDictionary<BodyRole, Vector3>? given = null,
        IProgress<double>? progress = null,
        CancellationToken cancel = default
    )
    {
        var placed = SkeletonPlacer.Place(Mesh, given);
        var weights = MeshBinder.Bind(Mesh, placed, progress, cancel);
        using var stream = new MemoryStream();
        Write(stream, placed.ToSkeleton(), weights);
        return (stream.ToArray(), placed, weights);
    }

    /// <summary>Writes the file with the skeleton in it and its meshes bound; what they look like stays as it was.</summary>
    private void Write(Stream stream, Skeleton skeleton, SkinWeights weights)
    {
        var scene = _model.DefaultScene ?? _model.LogicalScenes[0];
        var taken = _model.LogicalNodes.Select(n => n.Name).ToHashSet();
        var joints = new Node[skeleton.Count];
        for (var j = 0; j < joints.Length; j++)
        {
            var name = taken.Contains(skeleton[j].Name) ? skeleton[j].Name + "_joint" : skeleton[j].Name;
            joints[j] = skeleton.Parents[j] < 0 ? scene.CreateNode(name) : joints[skeleton.Parents[j]].CreateNode(name);
            joints[j].LocalTransform = new AffineTransform(null, skeleton[j].RestRotation, skeleton[j].Offset);
            joints[j].Extras = new JsonObject { ["role"] = skeleton[j].Role?.ToString() };
        }

        var skin = _model.CreateSkin("Rig");
        skin.BindJoints([.. joints.Select(n => (n, Matrix4x4.Invert(n.WorldMatrix, out var inverse) ? inverse : Matrix4x4.Identity))]);
        foreach (var (primitive, start, world) in _parts)
        {
            var n = primitive.GetVertexAccessor("POSITION").Count;
            GltfSkinAttributes.Set(_model, primitive, weights.Joints[start..(start + n)], weights.Weights[start..(start + n)]);
            if (world != Matrix4x4.Identity)
            {
                Bake(primitive, world);
            }
        }

        // The node of a skinned mesh moves nothing: its vertices are where its joints carry them.
        foreach (var node in Meshed().ToList())
        {
            var bound = scene.CreateNode(node.Name);
            (bound.Mesh, node.Mesh) = (node.Mesh, null);
            bound.Skin = skin;
        }

        _model.WriteGLB(stream);
    }

    private IEnumerable<Node> Meshed() =>
        Node.Flatten(
                _model.DefaultScene
                    ?? _model.LogicalScenes.FirstOrDefault()
                    ?? throw new InvalidInputException(_file, "scenes", "there is none")
            )
            .Where(n => n.Mesh is not null);

    private void Gather()
    {
        var (places, triangles) = (new List<Vector3>(), new List<int>());
        var seen = new HashSet<Mesh>();
        foreach (var node in Meshed())
        {
            if (!seen.Add(node.Mesh))
            {
                throw new InvalidInputException(
                    _file,
                    $"node '{node.Name}'",
                    $"mesh '{node.Mesh.Name}' stands in the scene twice: give each node its own"
                );
            }

            foreach (var primitive in node.Mesh.Primitives)
            {
                var own = primitive.GetVertexAccessor("POSITION")?.AsVector3Array()
                    ?? throw new InvalidInputException(_file, $"mesh '{node.Mesh.Name}'", "a part has no places");
                _parts.Add((primitive, places.Count, node.WorldMatrix));
                foreach (var (a, b, c) in primitive.GetTriangleIndices())
                {
                    triangles.AddRange([a + places.Count, b + places.Count, c + places.Count]);
                }

                foreach (var p in own)
                {
                    var at = Vector3.Transform(p, node.WorldMatrix);
                    places.Add(
                        float.IsFinite(at.X + at.Y + at.Z)
                            ? at
                            : throw new InvalidInputException(_file, $"mesh '{node.Mesh.Name}'", "a vertex has no usable place")
                    );
                }
            }
        }

        Mesh =
            triangles.Count == 0
                ? throw new InvalidInputException(_file, "meshes", "there is no mesh with a surface")
                : new BareMesh([.. places], [.. triangles]);
    }

    /// <summary>Puts a node's transform into the vertices themselves.</summary>
    private void Bake(MeshPrimitive primitive, Matrix4x4 world)
    {
        Vector3 Turned(Vector3 v) => Vector3.TransformNormal(v, world);
        var upright = Matrix4x4.Invert(world, out var inverse) ? Matrix4x4.Transpose(inverse) : world;
        Vector3 Unit(Vector3 v) => v.LengthSquared() > 0 ? Vector3.Normalize(v) : Vector3.UnitY;
        Change("POSITION", p => Vector3.Transform(p, world));
        Change("NORMAL", v => Unit(Vector3.TransformNormal(v, upright)));
        if (primitive.GetVertexAccessor("TANGENT") is { } tangents)
        {
            var flip = world.GetDeterminant() < 0 ? -1 : 1;
            Vector4[] turned =
            [
                .. tangents.AsVector4Array().Select(t => new Vector4(Unit(Turned(new Vector3(t.X, t.Y, t.Z))), t.W * flip)),
            ];
            primitive.SetVertexAccessor("TANGENT", GltfSkinAttributes.Accessor(_model, turned, turned.Length, new(DimensionType.VEC4)));
        }

        for (var k = 0; k < primitive.MorphTargetsCount; k++)
        {
            var moved = primitive.GetMorphTargetAccessors(k).ToDictionary(a => a.Key, a => a.Value);
            if (moved.TryGetValue("POSITION", out var moves))
            {
                moved["POSITION"] = Of(moves, Turned);
                primitive.SetMorphTargetAccessors(k, moved);
            }
        }

        if (world.GetDeterminant() < 0)
        {
            // Mirrored: the triangles turn over.
            int[] turned = [.. primitive.GetTriangleIndices().SelectMany(t => new[] { t.A, t.C, t.B })];
            primitive.SetIndexAccessor(GltfSkinAttributes.Indices(_model, turned, primitive.GetVertexAccessor("POSITION").Count));
            primitive.DrawPrimitiveType = PrimitiveType.TRIANGLES;
        }

        void Change(string attribute, Func<Vector3, Vector3> by)
        {
            if (primitive.GetVertexAccessor(attribute) is { } old)
            {
                primitive.SetVertexAccessor(attribute, Of(old, by));
            }
        }
    }

    private Accessor Of(Accessor old, Func<Vector3, Vector3> by)
    {
        Vector3[] changed = [.. old.AsVector3Array().Select(by)];
        return GltfSkinAttributes.Accessor(_model, changed, changed.Length, new(DimensionType.VEC3));
    }
}
