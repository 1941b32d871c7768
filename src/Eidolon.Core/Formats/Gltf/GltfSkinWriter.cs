using System.Numerics;
using System.Runtime.InteropServices;
using System.Text.Json.Nodes;
using Eidolon.Core.Characters;
using Eidolon.Core.Skeletons;
using SharpGLTF.Memory;
using SharpGLTF.Schema2;
using SharpGLTF.Transforms;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>Writes a skinned character at rest as GLB.</summary>
public static class GltfSkinWriter
{
    /// <summary>A binary glTF with the skeleton and the skinned mesh at rest.</summary>
    public static byte[] Write(Skeleton skeleton, SkinnedMesh mesh, string name)
    {
        var model = ModelRoot.CreateModel();
        var scene = model.UseScene(name);
        var nodes = new Node[skeleton.Count];
        for (var j = 0; j < nodes.Length; j++)
        {
            nodes[j] =
                skeleton.Parents[j] < 0 ? scene.CreateNode(skeleton[j].Name) : nodes[skeleton.Parents[j]].CreateNode(skeleton[j].Name);
            nodes[j].LocalTransform = new AffineTransform(null, skeleton[j].RestRotation, skeleton[j].Offset);
        }

        var body = scene.CreateNode(name + "_body");
        body.Mesh = CreateMesh(model, mesh, name);
        var skin = model.CreateSkin(name);
        // Stated outright: the short form takes the first joint's place for the mesh's own.
        skin.BindJoints([.. nodes.Select(n => (n, Matrix4x4.Invert(n.WorldMatrix, out var inverse) ? inverse : Matrix4x4.Identity))]);
        body.Skin = skin;
        model.Asset.Extras = new JsonObject { ["character"] = name };
        using var stream = new MemoryStream();
        model.WriteGLB(stream);
        return stream.ToArray();
    }

    private static Mesh CreateMesh(ModelRoot model, SkinnedMesh mesh, string name)
    {
        var result = model.CreateMesh(name);
        var primitive = result.CreatePrimitive();
        var n = mesh.Positions.Length;
        var joints = MemoryMarshal.Cast<(ushort, ushort, ushort, ushort), ushort>(mesh.Joints).ToArray();
        var colours = mesh.Colours.SelectMany(c => new[] { Byte(c.X), Byte(c.Y), Byte(c.Z), (byte)255 }).ToArray();
        Vertex("POSITION", mesh.Positions, new AttributeFormat(DimensionType.VEC3));
        Vertex("NORMAL", mesh.Normals, new AttributeFormat(DimensionType.VEC3));
        Vertex("COLOR_0", colours, new AttributeFormat(DimensionType.VEC4, EncodingType.UNSIGNED_BYTE, true));
        Vertex("JOINTS_0", joints, new AttributeFormat(DimensionType.VEC4, EncodingType.UNSIGNED_SHORT));
        Vertex("WEIGHTS_0", mesh.Weights, new AttributeFormat(DimensionType.VEC4));
        var index = model.CreateAccessor();
        var view = model.UseBufferView(
            new ArraySegment<byte>(MemoryMarshal.AsBytes<int>(mesh.Triangles).ToArray()),
            0,
            BufferMode.ELEMENT_ARRAY_BUFFER
        );
        index.SetIndexData(view, 0, mesh.Triangles.Length, IndexEncodingType.UNSIGNED_INT);
        primitive.SetIndexAccessor(index);
        primitive.DrawPrimitiveType = PrimitiveType.TRIANGLES;
        var material = model.CreateMaterial(name);
        material.InitializePBRMetallicRoughness();
        material.FindChannel("MetallicRoughness")?.SetFactor("MetallicFactor", 0);
        material.FindChannel("MetallicRoughness")?.SetFactor("RoughnessFactor", 0.85f);
        primitive.Material = material;
        return result;

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

    private static byte Byte(float v) => (byte)Math.Clamp(v * 255, 0, 255);
}
