using System.Numerics;
using Eidolon.Core.Characters.Binding;
using Eidolon.Core.Skeletons;
using SharpGLTF.Schema2;
using SharpGLTF.Transforms;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>A file whose mesh was bound to a standard skeleton, bound anew with joints put elsewhere.</summary>
public static class GltfRebinder
{
    /// <summary>A joint may be put this far out of the mesh, as a share of its height: skins are thin at wrists and toes.</summary>
    private const float Outside = .05f;

    /// <summary>Where the joints of a standard skeleton stand in a file, metres, by role.</summary>
    /// <returns>Null where the file was not bound to one, or its rest pose was changed since.</returns>
    public static IReadOnlyDictionary<BodyRole, Vector3>? Places(byte[] glb, string file) =>
        Joints(GltfReader.Open(glb, file)) is { } joints ? joints.ToDictionary(j => j.Key, j => j.Value.WorldMatrix.Translation) : null;

    /// <summary>The file with its mesh bound anew; what it looks like at rest stays as it was.</summary>
    /// <param name="moved">Joints that are put elsewhere, metres; the others stay.</param>
    /// <param name="progress">From 0 to 1.</param>
    /// <exception cref="RefusedException">The file has no standard skeleton at rest, or a joint lies outside the mesh; says which.</exception>
    public static byte[] Bind(
        byte[] glb,
        string file,
        IReadOnlyDictionary<BodyRole, Vector3> moved,
        IProgress<double>? progress = null,
        CancellationToken cancel = default
    )
    {
        var model = GltfReader.Open(glb, file);
        var joints = Joints(model)
            ?? throw new RefusedException($"{file} has no standard skeleton as it was bound; its joints cannot be put elsewhere");
        var skin = GltfSkinSurface.Open(glb, file);
        var placed = PlacedSkeleton.Of(joints.ToDictionary(j => j.Key, j => j.Value.WorldMatrix.Translation)).With(moved);
        Check(skin.Surface.Places, placed, moved.Keys);
        // The last bones go on the way those before them go, wherever those are now.
        placed = PlacedSkeleton.Of(placed.Places);
        var weights = MeshBinder.Bind(new BareMesh(skin.Surface.Places, skin.Surface.Triangles), placed, progress, cancel);
        foreach (var (role, parent) in PlacedSkeleton.Joints)
        {
            var at = placed.Places[role];
            joints[role].LocalTransform = new AffineTransform(null, Quaternion.Identity, parent is { } p ? at - placed.Places[p] : at);
        }

        var own = model.LogicalSkins[0];
        var order = Enumerable.Range(0, own.JointsCount).Select(k => own.GetJoint(k).Joint).ToArray();
        own.BindJoints([.. order.Select(n => (n, Matrix4x4.Invert(n.WorldMatrix, out var inverse) ? inverse : Matrix4x4.Identity))]);
        // Weights count the joints of a standard skeleton; the surface counts the bones of the file.
        var number = PlacedSkeleton.Joints.Select(j => (ushort)skin.Surface.Bones.ToList().IndexOf(joints[j.Role].Name)).ToArray();
        skin.Set(
            model,
            weights with
            {
                Joints = Array.ConvertAll(weights.Joints, j => (number[j.A], number[j.B], number[j.C], number[j.D])),
            },
            skin.Parts
        );
        using var stream = new MemoryStream();
        model.WriteGLB(stream);
        return stream.ToArray();
    }

    private static void Check(Vector3[] places, PlacedSkeleton placed, IEnumerable<BodyRole> moved)
    {
        var (low, high) = (places.Aggregate(Vector3.Min), places.Aggregate(Vector3.Max));
        var margin = new Vector3((high.Y - low.Y) * Outside);
        foreach (var role in moved)
        {
            var at = placed.Places[role];
            if (!float.IsFinite(at.X + at.Y + at.Z) || Vector3.Clamp(at, low - margin, high + margin) != at)
            {
                throw new RefusedException($"the joint {role} lies outside the mesh");
            }
        }
    }

    /// <summary>The nodes of a standard skeleton by role; null where there is another rig, or a joint is turned at rest.</summary>
    private static Dictionary<BodyRole, Node>? Joints(ModelRoot model)
    {
        if (model.LogicalSkins.Count != 1 || model.LogicalSkins[0].JointsCount != PlacedSkeleton.Joints.Count)
        {
            return null;
        }

        var skin = model.LogicalSkins[0];
        var found = new Dictionary<BodyRole, Node>();
        for (var k = 0; k < skin.JointsCount; k++)
        {
            var node = skin.GetJoint(k).Joint;
            if (
                !Enum.TryParse<BodyRole>((string?)node.Extras?["role"], out var role)
                || !found.TryAdd(role, node)
                || !Upright(node.WorldMatrix)
            )
            {
                return null;
            }
        }

        return PlacedSkeleton.Joints.All(j =>
            found.TryGetValue(j.Role, out var n)
            && (j.Parent is not { } p || (found.TryGetValue(p, out var above) && n.VisualParent == above))
        )
            ? found
            : null;
    }

    /// <summary>Neither turned nor scaled.</summary>
    private static bool Upright(Matrix4x4 m)
    {
        m.Translation = Vector3.Zero;
        for (var r = 0; r < 4; r++)
        {
            for (var c = 0; c < 4; c++)
            {
                if (MathF.Abs(m[r, c] - Matrix4x4.Identity[r, c]) > 1e-4f)
                {
                    return false;
                }
            }
        }

        return true;
    }
}
