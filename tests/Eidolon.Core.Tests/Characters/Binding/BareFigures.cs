using System.Collections.Concurrent;
using System.Globalization;
using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Characters.Binding;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;

namespace Eidolon.Core.Tests.Characters.Binding;

/// <summary>Figures whose rig is known, and the same without it; characters where their skins are, with the roles of their joints.</summary>
internal static class BareFigures
{
    private static readonly ConcurrentDictionary<string, Lazy<(Skeleton, SkinnedFigure)>> Made = new(StringComparer.Ordinal);

    /// <param name="name">A character of the production, or a stature in metres for a performer.</param>
    public static (Skeleton Skeleton, SkinnedFigure Figure) Of(string name) => Made.GetOrAdd(name, n => new(() =>
            {
                if (!float.TryParse(n, CultureInfo.InvariantCulture, out var stature))
                {
                    var (rig, figure) = HarbourCharacters.Figure(n);
                    return (rig.WithRoles(RoleFinder.Find(rig).Roles), figure);
                }

                var body = Anthropometry.Body(stature);
                return (body, PerformerFigure.Of(body));
            })).Value;

    /// <summary>The bare mesh with its arms lowered, standing elsewhere, facing elsewhere, of another size; and where its joints then are.</summary>
    /// <param name="lowered">Of both arms, degrees.</param>
    /// <param name="heading">Degrees.</param>
    public static (BareMesh Mesh, IReadOnlyDictionary<BodyRole, Vector3> Joints) Standing(
        string name,
        float lowered,
        float heading = 0,
        float scale = 1
    )
    {
        var (skeleton, figure) = Of(name);
        Quaternion Down(int sign) => Quaternion.CreateFromAxisAngle(Vector3.UnitZ, -sign * lowered * MathF.PI / 180);
        var turns = new Dictionary<int, Quaternion>
        {
            [skeleton.IndexOf(BodyRole.UpperArmL)] = Down(1),
            [skeleton.IndexOf(BodyRole.UpperArmR)] = Down(-1),
        };
        var (places, _, joints) = SkinPose.Of(skeleton, figure, turns);
        var turn = Quaternion.CreateFromAxisAngle(Vector3.UnitY, heading * MathF.PI / 180);
        Vector3 Put(Vector3 p) => (Vector3.Transform(p, turn) * scale) + new Vector3(3, .4f, -2);
        var bare = Bare(figure);
        return (
            bare with
            {
                Positions = [.. places.SelectMany(p => p).Select(Put)],
            },
            skeleton
                .Joints.Select((j, i) => (j.Role, joints[i]))
                .Where(j => j.Role is not null)
                .ToDictionary(j => j.Role!.Value, j => Put(j.Item2))
        );
    }

    public static BareMesh Bare(SkinnedFigure figure)
    {
        var (places, triangles) = (new List<Vector3>(), new List<int>());
        foreach (var skin in figure.Skins)
        {
            triangles.AddRange(skin.Triangles.Select(t => t + places.Count));
            places.AddRange(skin.Positions);
        }

        return new BareMesh([.. places], [.. triangles]);
    }
}
