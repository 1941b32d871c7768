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
    /// <summary>A binary glTF with the skeleton and one skin at rest.</summary>
    public static byte[] Write(Skeleton skeleton, SkinnedMesh mesh, string name) => Write(skeleton, new SkinnedFigure([mesh], []), name);

    /// <summary>A binary glTF of what a figure looks like at rest, without any rig.</summary>
    /// <param name="at">Where its node puts it.</param>
    public static byte[] WriteBare(SkinnedFigure figure, string name, Matrix4x4 at)
    {
        var model = ModelRoot.CreateModel();
        var node = model.UseScene(name).CreateNode(name);
        node.LocalMatrix = at;
        node.Mesh = GltfSkinMesh.Create(
            model,
            name,
            [.. figure.Skins.Select(s => s with { Shapes = new Dictionary<string, Vector3[]>() })],
            false
        );
        using var stream = new MemoryStream();
        model.WriteGLB(stream);
        return stream.ToArray();
    }

    /// <summary>A binary glTF with the skeleton and the figure's skins at rest; skins of one material become one.</summary>
    public static byte[] Write(Skeleton skeleton, SkinnedFigure figure, string name)
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

        var helpers = figure
            .Helpers.Select(h =>
            {
                var node = nodes[skeleton.Parents[h.Joint]].CreateNode(h.Name);
                node.LocalTransform = nodes[h.Joint].LocalTransform;
                node.Extras = GltfHelpers.Extras(skeleton[h.Joint].Name, h.Share);
                return node;
            })
            .ToArray();
        var skin = model.CreateSkin(name);
        // Stated outright: the short form takes the first joint's place for the mesh's own.
        skin.BindJoints([
            .. nodes.Concat(helpers).Select(n => (n, Matrix4x4.Invert(n.WorldMatrix, out var inverse) ? inverse : Matrix4x4.Identity)),
        ]);
        // All primitives of a mesh must have the same shapes: what never moves by itself is a mesh of its own.
        foreach (var (kind, skins) in figure.Skins.GroupBy(s => s.Shapes.Count > 0 ? "face" : "body").Select(g => (g.Key, g)))
        {
            var body = scene.CreateNode($"{name}_{kind}");
            body.Mesh = GltfSkinMesh.Create(model, $"{name}_{kind}", [.. skins]);
            body.Skin = skin;
        }

        model.Asset.Extras = new JsonObject { ["character"] = name };
        using var stream = new MemoryStream();
        model.WriteGLB(stream);
        return stream.ToArray();
    }
}
