using System.Numerics;
using System.Runtime.InteropServices;
using SharpGLTF.Memory;
using SharpGLTF.Schema2;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>Vertex data of skins in the formats of glTF 2.0, section 3.7.3.</summary>
internal static class GltfSkinAttributes
{
    /// <summary>Bones and weights of a primitive's vertices.</summary>
    public static void Set(
        ModelRoot model,
        MeshPrimitive primitive,
        IReadOnlyList<(ushort A, ushort B, ushort C, ushort D)> bones,
        IReadOnlyList<Vector4> weights
    )
    {
        var n = bones.Count;
        var joints = bones.SelectMany(j => new[] { j.A, j.B, j.C, j.D }).ToArray();
        // A byte a bone holds every rig of ours; only a very large one needs two.
        primitive.SetVertexAccessor(
            "JOINTS_0",
            joints.Max() < 256
                ? Accessor(model, joints.Select(j => (byte)j).ToArray(), n, new(DimensionType.VEC4, EncodingType.UNSIGNED_BYTE))
                : Accessor(model, joints, n, new(DimensionType.VEC4, EncodingType.UNSIGNED_SHORT))
        );
        primitive.SetVertexAccessor(
            "WEIGHTS_0",
            Accessor(model, weights.SelectMany(Sixteen).ToArray(), n, new(DimensionType.VEC4, EncodingType.UNSIGNED_SHORT, true))
        );
    }

    /// <param name="data">Of all vertices, one after the other.</param>
    /// <param name="count">How many vertices.</param>
    public static Accessor Accessor<T>(ModelRoot model, T[] data, int count, AttributeFormat format)
        where T : unmanaged
    {
        var bytes = MemoryMarshal.AsBytes<T>(data).ToArray();
        var buffer = model.UseBufferView(new ArraySegment<byte>(bytes), bytes.Length / count, BufferMode.ARRAY_BUFFER);
        var accessor = model.CreateAccessor();
        accessor.SetVertexData(buffer, 0, count, format);
        return accessor;
    }

    /// <summary>Triangles, in two bytes a corner where that is enough.</summary>
    public static Accessor Indices(ModelRoot model, int[] triangles, int vertices)
    {
        var small = vertices < 65535;
        var bytes = small
            ? MemoryMarshal.AsBytes<ushort>(triangles.Select(i => (ushort)i).ToArray())
            : MemoryMarshal.AsBytes<int>(triangles);
        var index = model.CreateAccessor();
        var view = model.UseBufferView(new ArraySegment<byte>(bytes.ToArray()), 0, BufferMode.ELEMENT_ARRAY_BUFFER);
        index.SetIndexData(view, 0, triangles.Length, small ? IndexEncodingType.UNSIGNED_SHORT : IndexEncodingType.UNSIGNED_INT);
        return index;
    }

    /// <summary>Four weights in sixteen bits that sum to one exactly: the first, the largest, takes what rounding leaves.</summary>
    private static ushort[] Sixteen(Vector4 w)
    {
        ushort Of(float v) => (ushort)MathF.Round(Math.Clamp(v, 0, 1) * ushort.MaxValue);
        var (b, c, d) = (Of(w.Y), Of(w.Z), Of(w.W));
        return [(ushort)(ushort.MaxValue - b - c - d), b, c, d];
    }
}
