using System.Numerics;
using Eidolon.Core.Clipping;
using SharpGLTF.Schema2;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>The skin of a file at rest: each vertex where its joints carry it, and the joint of the skeleton it follows most.</summary>
public static class GltfSkinPoints
{
    /// <param name="binding">The file and its skeleton.</param>
    /// <param name="leftOut">Names of meshes that do not count.</param>
    /// <returns>No points where no mesh has a skin.</returns>
    public static SkinPoints Of(GltfBinding binding, IReadOnlySet<string>? leftOut = null)
    {
        var index = binding.Nodes.Select((node, j) => (node, j)).ToDictionary(x => x.node, x => x.j);
        var places = new List<Vector3>();
        var joints = new List<int>();
        var skinned = binding.Model.LogicalNodes.Where(n => n is { Mesh: not null, Skin: not null });
        foreach (var node in skinned.Where(n => leftOut?.Contains(GltfCharacter.NameOf(n)) != true))
        {
            var skin = node.Skin;
            var bones = Enumerable.Range(0, skin.JointsCount).Select(skin.GetJoint).ToArray();
            var carried = Array.ConvertAll(bones, b => b.InverseBindMatrix * b.Joint.WorldMatrix);
            var owners = Array.ConvertAll(bones, b => Owner(b.Joint, index));
            foreach (var part in node.Mesh.Primitives)
            {
                Add(part, carried, owners, places, joints);
            }
        }

        return new SkinPoints([.. places], [.. joints]);
    }

    private static void Add(MeshPrimitive part, Matrix4x4[] carried, int[] owners, List<Vector3> places, List<int> joints)
    {
        if (
            part.GetVertexAccessor("POSITION")?.AsVector3Array() is not { } positions
            || part.GetVertexAccessor("JOINTS_0")?.AsVector4Array() is not { } bones
            || part.GetVertexAccessor("WEIGHTS_0")?.AsVector4Array() is not { } weights
        )
        {
            return;
        }

        for (var v = 0; v < positions.Count; v++)
        {
            var (at, most, owner) = (Vector3.Zero, 0f, -1);
            var sum = weights[v].X + weights[v].Y + weights[v].Z + weights[v].W;
            for (var k = 0; k < 4 && sum > 0; k++)
            {
                var (bone, weight) = ((int)bones[v][k], weights[v][k] / sum);
                if (weight <= 0 || bone >= carried.Length)
                {
                    continue;
                }

                at += Vector3.Transform(positions[v], carried[bone]) * weight;
                (most, owner) = weight > most ? (weight, owners[bone]) : (most, owner);
            }

            if (owner >= 0)
            {
                places.Add(at);
                joints.Add(owner);
            }
        }
    }

    /// <summary>The joint of a bone; of one that only the skin has, that of the nearest node above.</summary>
    private static int Owner(Node node, Dictionary<Node, int> index)
    {
        for (var n = node; n is not null; n = n.VisualParent)
        {
            if (index.TryGetValue(n, out var j))
            {
                return j;
            }
        }

        return -1;
    }
}
