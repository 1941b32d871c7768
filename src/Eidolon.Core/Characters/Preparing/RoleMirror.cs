using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters.Preparing;

/// <summary>Roles of one side carried to the joints that stand as their mirror on the other.</summary>
public static class RoleMirror
{
    /// <summary>How far from its mirror a joint may stand, as a share of the figure's height.</summary>
    private const float Near = 0.04f;

    /// <summary>The roles of the other side, by joint name; a joint without a mirror gives none.</summary>
    /// <param name="roles">Role → joint name.</param>
    /// <param name="from">'L' or 'R'.</param>
    public static IReadOnlyDictionary<BodyRole, string> Of(Skeleton s, IReadOnlyDictionary<BodyRole, string> roles, char from)
    {
        var found = new Dictionary<BodyRole, string>();
        var own = roles.Where(r => BodyRoles.Side(r.Key) == from).ToList();
        if (own.Count == 0 || Plane(s, roles, own.ConvertAll(r => s.RestPositions[s.IndexOf(r.Value)])) is not var (middle, across))
        {
            return found;
        }

        var reach = Near * RestCheck.Height(s);
        var taken = roles.Where(r => BodyRoles.Side(r.Key) == 'C' || BodyRoles.Side(r.Key) == from).Select(r => r.Value).ToHashSet();
        foreach (var (role, joint) in own)
        {
            var at = s.RestPositions[s.IndexOf(joint)];
            var mirrored = at - (2 * Vector3.Dot(at - middle, across) * across);
            var depth = Depth(s, s.IndexOf(joint));
            var best = Enumerable
                .Range(0, s.Count)
                .Where(j => !taken.Contains(s[j].Name) && !found.ContainsValue(s[j].Name) && Depth(s, j) == depth)
                .Select(j => (Joint: j, Off: (s.RestPositions[j] - mirrored).Length()))
                .Where(x => x.Off <= reach)
                .OrderBy(x => x.Off)
                .Select(x => x.Joint)
                .FirstOrDefault(-1);
            if (best >= 0)
            {
                found[BodyRoles.Mirror(role)] = s[best].Name;
            }
        }

        return found;
    }

    /// <summary>The plane between the sides of a character: a point of it, and its normal; null where no role has a side.</summary>
    public static (Vector3 Middle, Vector3 Across)? Plane(Skeleton s, IReadOnlyDictionary<BodyRole, string> roles)
    {
        var left = roles.Where(r => BodyRoles.Side(r.Key) == 'L').ToList();
        return left.Count == 0 ? null : Plane(s, roles, left.ConvertAll(r => s.RestPositions[s.IndexOf(r.Value)]));
    }

    /// <summary>The plane between the sides: through what has no side, across to where this side lies.</summary>
    private static (Vector3 Middle, Vector3 Across)? Plane(Skeleton s, IReadOnlyDictionary<BodyRole, string> roles, List<Vector3> side)
    {
        var centre = roles
            .Where(r => BodyRoles.Side(r.Key) == 'C')
            .Select(r => s.RestPositions[s.IndexOf(r.Value)])
            .DefaultIfEmpty(s.RestPositions[0])
            .ToList();
        var middle = centre.Aggregate(Vector3.Zero, (a, b) => a + b) / centre.Count;
        var across = (side.Aggregate(Vector3.Zero, (a, b) => a + b) / side.Count) - middle;
        // A figure stands upright and looks along an axis of its file, or nearly: the larger of the two is across.
        across = MathF.Abs(across.X) >= MathF.Abs(across.Z) ? across with { Y = 0, Z = 0 } : across with { X = 0, Y = 0 };
        return across.LengthSquared() < 1e-10f ? null : (middle, Vector3.Normalize(across));
    }

    private static int Depth(Skeleton s, int joint)
    {
        var depth = 0;
        for (var j = s.Parents[joint]; j >= 0; j = s.Parents[j])
        {
            depth++;
        }

        return depth;
    }
}
