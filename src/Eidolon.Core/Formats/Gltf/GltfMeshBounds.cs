using System.Numerics;
using SharpGLTF.Schema2;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>How far the meshes of a file reach at rest: every vertex where its joints carry it.</summary>
public static class GltfMeshBounds
{
    /// <summary>Lowest and highest Y of all vertices, metres; null where there is no mesh.</summary>
    public static (float Low, float High)? Heights(ModelRoot model)
    {
        var (low, high) = (float.PositiveInfinity, float.NegativeInfinity);
        foreach (var node in model.LogicalNodes.Where(n => n.Mesh is not null))
        {
            var joints = node.Skin is { } skin
                ? Enumerable
                    .Range(0, skin.JointsCount)
                    .Select(skin.GetJoint)
                    .Select(j => j.InverseBindMatrix * j.Joint.WorldMatrix)
                    .ToArray()
                : null;
            foreach (var part in node.Mesh.Primitives)
            {
                var (l, h) = Of(part, joints, node.WorldMatrix);
                (low, high) = (MathF.Min(low, l), MathF.Max(high, h));
            }
        }

        return low <= high ? (low, high) : null;
    }

    private static (float Low, float High) Of(MeshPrimitive part, Matrix4x4[]? joints, Matrix4x4 world)
    {
        var (low, high) = (float.PositiveInfinity, float.NegativeInfinity);
        if (part.GetVertexAccessor("POSITION")?.AsVector3Array() is not { } places)
        {
            return (low, high);
        }

        var (which, weights) = (
            part.GetVertexAccessor("JOINTS_0")?.AsVector4Array(),
            part.GetVertexAccessor("WEIGHTS_0")?.AsVector4Array()
        );
        for (var i = 0; i < places.Count; i++)
        {
            float y;
            if (joints is null || which is null || weights is null)
            {
                y = Vector3.Transform(places[i], world).Y;
            }
            else
            {
                float Share(float joint, float weight) => weight <= 0 ? 0 : weight * Vector3.Transform(places[i], joints[(int)joint]).Y;
                var (j, w) = (which[i], weights[i]);
                y = Share(j.X, w.X) + Share(j.Y, w.Y) + Share(j.Z, w.Z) + Share(j.W, w.W);
            }

            (low, high) = (MathF.Min(low, y), MathF.Max(high, y));
        }

        return (low, high);
    }
}
