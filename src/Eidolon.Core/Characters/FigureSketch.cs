using System.Numerics;
using Eidolon.Core.Characters.Sculpting;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Skeletons;
using SharpGLTF.Schema2;

namespace Eidolon.Core.Characters;

/// <summary>How thick a bone's skin is and what colour most of it has.</summary>
/// <param name="Radius">Mean distance from the bone, metres.</param>
/// <param name="Colour">sRGB as screens write it, such as "#5f4a66".</param>
public readonly record struct SketchStroke(float Radius, string Colour);

/// <summary>A character in a few strokes, told from its own mesh: enough for pictures as high as a line of text, in which a silhouette must still tell who it is.</summary>
/// <param name="Strokes">By role; fingers and toes count with hand and foot.</param>
/// <param name="Face">The lower half of the head.</param>
/// <param name="Hat">The upper half, with what is worn on it.</param>
/// <param name="Crown">How far the highest point is above the head's joint, metres.</param>
public sealed record FigureSketch(IReadOnlyDictionary<BodyRole, SketchStroke> Strokes, SketchStroke Face, SketchStroke Hat, float Crown)
{
    private const int Every = 3;

    /// <param name="binding">The character's file.</param>
    /// <param name="roles">Its skeleton with roles; joints in the binding's order.</param>
    public static FigureSketch Of(GltfBinding binding, Skeleton roles)
    {
        var found = Enum.GetValues<BodyRole>().ToDictionary(r => r, _ => new Tally());
        var (face, hat) = (new Tally(), new Tally());
        var head = roles.RestPositions[roles.IndexOf(BodyRole.Head)];
        var skin = new List<(BodyRole Role, Vector3 At, Material? Material)>();
        foreach (var node in binding.Model.LogicalNodes.Where(n => n is { Skin: not null, Mesh: not null }))
        {
            BodyRole?[] bones =
            [
                .. Enumerable.Range(0, node.Skin.JointsCount).Select(i => RoleOf(binding, roles, node.Skin.GetJoint(i).Joint)),
            ];
            foreach (var primitive in node.Mesh.Primitives)
            {
                var places = primitive.GetVertexAccessor("POSITION")?.AsVector3Array();
                var joints = primitive.GetVertexAccessor("JOINTS_0")?.AsVector4Array();
                var weights = primitive.GetVertexAccessor("WEIGHTS_0")?.AsVector4Array();
                for (var v = 0; places is not null && joints is not null && weights is not null && v < places.Count; v += Every)
                {
                    var (j, w) = (joints[v], weights[v]);
                    var most =
                        w.X >= w.Y && w.X >= w.Z && w.X >= w.W ? j.X
                        : w.Y >= w.Z && w.Y >= w.W ? j.Y
                        : w.Z >= w.W ? j.Z
                        : j.W;
                    if (bones[(int)most] is { } role)
                    {
                        skin.Add((role, places[v], primitive.Material));
                    }
                }
            }
        }

        var crown = skin.Where(s => s.Role == BodyRole.Head).Select(s => s.At.Y - head.Y).DefaultIfEmpty(.2f).Max();
        foreach (var (role, at, material) in skin)
        {
            found[role].Add(Away(roles, role, at), material);
            if (role == BodyRole.Head)
            {
                (at.Y - head.Y > crown * .55f ? hat : face).Add(new Vector2(at.X - head.X, at.Z - head.Z).Length(), material);
            }
        }

        return new FigureSketch(
            found.Where(f => f.Value.Count > 0).ToDictionary(f => f.Key, f => f.Value.Stroke()),
            face.Stroke(),
            hat.Stroke(),
            crown
        );
    }

    /// <summary>Distance from a joint's bone.</summary>
    private static float Away(Skeleton s, BodyRole role, Vector3 p)
    {
        var j = s.IndexOf(role);
        var a = s.RestPositions[j];
        var b = s.Children(j).Where(c => s[c].Role is not null).Select(c => s.RestPositions[c]).DefaultIfEmpty(a).First();
        var along = b - a;
        var t = along.LengthSquared() < 1e-9f ? 0 : Math.Clamp(Vector3.Dot(p - a, along) / along.LengthSquared(), 0, 1);
        return (p - (a + (along * t))).Length();
    }

    /// <summary>The role a bone of the skin counts with; bones without one count with what they hang on.</summary>
    private static BodyRole? RoleOf(GltfBinding binding, Skeleton roles, Node bone)
    {
        for (var at = bone; at is not null; at = at.VisualParent)
        {
            if (
                Enumerable.Range(0, binding.Nodes.Count).FirstOrDefault(j => binding.Nodes[j] == at, -1) is >= 0 and var j
                && roles[j].Role is { } role
            )
            {
                return BodyRoles.IsFinger(role) ? (BodyRoles.Side(role) == 'L' ? BodyRole.HandL : BodyRole.HandR)
                    : role is BodyRole.EyeL or BodyRole.EyeR or BodyRole.Jaw ? BodyRole.Head
                    : role is BodyRole.ToesL ? BodyRole.FootL
                    : role is BodyRole.ToesR ? BodyRole.FootR
                    : role is BodyRole.UpperArmTwistL ? BodyRole.UpperArmL
                    : role is BodyRole.UpperArmTwistR ? BodyRole.UpperArmR
                    : role is BodyRole.ForearmTwistL ? BodyRole.ForearmL
                    : role is BodyRole.ForearmTwistR ? BodyRole.ForearmR
                    : role;
            }
        }

        return null;
    }

    private sealed class Tally
    {
        private readonly Dictionary<string, int> _colours = [];
        private double _sum;

        public int Count { get; private set; }

        public void Add(float radius, Material? material)
        {
            (_sum, Count) = (_sum + radius, Count + 1);
            var c = material?.FindChannel("BaseColor")?.Color ?? Vector4.One;
            var colour = SurfaceMaterial.Hex(new(c.X, c.Y, c.Z));
            _colours[colour] = _colours.GetValueOrDefault(colour) + 1;
        }

        public SketchStroke Stroke() => Count == 0 ? new(.06f, "#c9bfb4") : new((float)(_sum / Count), _colours.MaxBy(c => c.Value).Key);
    }
}
