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
    /// <param name="bound">False leaves bones and weights out.</param>
    public static Mesh Create(ModelRoot model, string name, IReadOnlyList<SkinnedMesh> skins, bool bound = true)
    {
        var mesh = model.CreateMesh(name);
        string[] shapes = [.. skins.SelectMany(s => s.Shapes.Keys).Distinct()];
        foreach (var group in skins.GroupBy(s => s.Material))
        {
            Primitive(model, mesh.CreatePrimitive(), [.. group], shapes, bound);
        }

        if (shapes.Length > 0)
        {
            mesh.SetMorphWeights(new float[shapes.Length]);
            mesh.Extras = new JsonObject { ["targetNames"] = new JsonArray([.. shapes.Select(s => (JsonNode)s)]) };
        }

        return mesh;
    }

    private static void Primitive(ModelRoot model, MeshPrimitive primitive, SkinnedMesh[] skins, string[] shapes, bool bound)
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

        if (bound)
        {
            GltfSkinAttributes.Set(model, primitive, [.. skins.SelectMany(s => s.Joints)], [.. skins.SelectMany(s => s.Weights)]);
        }

        primitive.SetIndexAccessor(GltfSkinAttributes.Indices(model, [.. Triangles(skins)], n));
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
            where T : unmanaged => primitive.SetVertexAccessor(attribute, GltfSkinAttributes.Accessor(model, data, n, format));
    }

    private static IEnumerable<int> Triangles(SkinnedMesh[] skins)
    {
        var before = 0;
        foreach (var s in skins)
        {
            foreach (var t in s.Triangles)
            {
                yield return t + before;
            }

            before += s.Positions.Length;
        }
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
