using System.Numerics;
using System.Runtime.InteropServices;
using System.Text.Json.Nodes;
using Eidolon.Core.Characters;
using SharpGLTF.Memory;
using SharpGLTF.Schema2;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>A glTF mesh of skins: a primitive a material, with face shapes where they have some.</summary>
internal static class GltfSkinMesh
{
    public static Mesh Create(ModelRoot model, string name, IReadOnlyList<SkinnedMesh> skins)
    {
        var mesh = model.CreateMesh(name);
        string[] shapes = [.. skins.SelectMany(s => s.Shapes.Keys).Distinct()];
        foreach (var group in skins.GroupBy(s => s.Material))
        {
            Primitive(model, mesh.CreatePrimitive(), [.. group], shapes);
        }

        if (shapes.Length > 0)
        {
            mesh.SetMorphWeights(new float[shapes.Length]);
            mesh.Extras = new JsonObject { ["targetNames"] = new JsonArray([.. shapes.Select(s => (JsonNode)s)]) };
        }

        return mesh;
    }

    private static void Primitive(ModelRoot model, MeshPrimitive primitive, SkinnedMesh[] skins, string[] shapes)
    {
        var n = skins.Sum(s => s.Positions.Length);
        Vector3[] places = [.. skins.SelectMany(s => s.Positions)];
        Vertex("POSITION", places, new AttributeFormat(DimensionType.VEC3));
        Vertex("NORMAL", skins.SelectMany(s => s.Normals).ToArray(), new AttributeFormat(DimensionType.VEC3));
        if (skins.Any(s => s.Colours is not null))
        {
            var colours = skins
                .SelectMany(s => s.Colours ?? Enumerable.Repeat(Vector3.One, s.Positions.Length))
                .SelectMany(c => new[] { Byte(c.X), Byte(c.Y), Byte(c.Z), (byte)255 });
            Vertex("COLOR_0", colours.ToArray(), new AttributeFormat(DimensionType.VEC4, EncodingType.UNSIGNED_BYTE, true));
        }

        var joints = skins.SelectMany(s => s.Joints).SelectMany(j => new[] { j.A, j.B, j.C, j.D }).ToArray();
        // A byte a bone holds every rig of ours; only a very large one needs two.
        if (joints.Max() < 256)
        {
            Vertex("JOINTS_0", joints.Select(j => (byte)j).ToArray(), new AttributeFormat(DimensionType.VEC4, EncodingType.UNSIGNED_BYTE));
        }
        else
        {
            Vertex("JOINTS_0", joints, new AttributeFormat(DimensionType.VEC4, EncodingType.UNSIGNED_SHORT));
        }

        Vertex(
            "WEIGHTS_0",
            skins.SelectMany(s => s.Weights).SelectMany(Sixteen).ToArray(),
            new AttributeFormat(DimensionType.VEC4, EncodingType.UNSIGNED_SHORT, true)
        );
        primitive.SetIndexAccessor(Indices(model, skins, n));
        primitive.DrawPrimitiveType = PrimitiveType.TRIANGLES;
        primitive.Material = Material(model, skins[0]);
        // Shapes that move nothing of this material share their zeros.
        Accessor? zero = null;
        for (var k = 0; k < shapes.Length; k++)
        {
            Vector3[] moves = [.. skins.SelectMany(s => s.Shapes.TryGetValue(shapes[k], out var m) ? m : new Vector3[s.Positions.Length])];
            var still = Array.TrueForAll(moves, m => m == Vector3.Zero);
            var accessor = still ? zero ??= Moves(model, moves) : Moves(model, moves);
            primitive.SetMorphTargetAccessors(k, new Dictionary<string, Accessor> { ["POSITION"] = accessor });
        }

        void Vertex<T>(string attribute, T[] data, AttributeFormat format)
            where T : unmanaged
        {
            var bytes = MemoryMarshal.AsBytes<T>(data).ToArray();
            var buffer = model.UseBufferView(new ArraySegment<byte>(bytes), bytes.Length / n, BufferMode.ARRAY_BUFFER);
            var accessor = model.CreateAccessor();
            accessor.SetVertexData(buffer, 0, n, format);
            primitive.SetVertexAccessor(attribute, accessor);
        }
    }

    /// <summary>Four weights in sixteen bits that sum to one exactly: the first, the largest, takes what rounding leaves.</summary>
    private static ushort[] Sixteen(Vector4 w)
    {
        ushort Of(float v) => (ushort)MathF.Round(Math.Clamp(v, 0, 1) * ushort.MaxValue);
        var (b, c, d) = (Of(w.Y), Of(w.Z), Of(w.W));
        return [(ushort)(ushort.MaxValue - b - c - d), b, c, d];
    }

    private static Accessor Indices(ModelRoot model, SkinnedMesh[] skins, int vertices)
    {
        var all = new List<int>();
        var before = 0;
        foreach (var s in skins)
        {
            all.AddRange(s.Triangles.Select(t => t + before));
            before += s.Positions.Length;
        }

        var small = vertices < 65535;
        var bytes = small ? MemoryMarshal.AsBytes<ushort>(all.Select(i => (ushort)i).ToArray()) : MemoryMarshal.AsBytes<int>(all.ToArray());
        var index = model.CreateAccessor();
        var view = model.UseBufferView(new ArraySegment<byte>(bytes.ToArray()), 0, BufferMode.ELEMENT_ARRAY_BUFFER);
        index.SetIndexData(view, 0, all.Count, small ? IndexEncodingType.UNSIGNED_SHORT : IndexEncodingType.UNSIGNED_INT);
        return index;
    }

    private static Accessor Moves(ModelRoot model, Vector3[] moves)
    {
        var accessor = model.CreateAccessor();
        var bytes = MemoryMarshal.AsBytes<Vector3>(moves).ToArray();
        accessor.SetVertexData(
            model.UseBufferView(new ArraySegment<byte>(bytes), 12),
            0,
            moves.Length,
            new AttributeFormat(DimensionType.VEC3)
        );
        return accessor;
    }

    private static Material Material(ModelRoot model, SkinnedMesh skin)
    {
        var found = model.LogicalMaterials.FirstOrDefault(m => m.Name == skin.Material.Name);
        if (found is not null)
        {
            return found;
        }

        var material = model.CreateMaterial(skin.Material.Name);
        material.InitializePBRMetallicRoughness();
        material.FindChannel("MetallicRoughness")?.SetFactor("MetallicFactor", 0);
        material.FindChannel("MetallicRoughness")?.SetFactor("RoughnessFactor", 0.85f);
        var colour = material.FindChannel("BaseColor")!.Value;
        colour.Color = new Vector4(skin.Material.Colour, 1);
        return material;
    }

    private static byte Byte(float v) => (byte)Math.Clamp(v * 255, 0, 255);
}
