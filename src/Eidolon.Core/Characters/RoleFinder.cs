using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters;

/// <summary>Finds which joint plays which role: by name where the names speak, by shape where they do not.</summary>
public static class RoleFinder
{
    /// <summary>Guesses which joint is which by names, sides and shape.</summary>
    public static RoleGuess Find(Skeleton skeleton)
    {
        var doubts = new List<string>();
        var byShape = RolesByShape.Find(skeleton, out var sure);
        var byName = RolesByName.Find(skeleton);
        if (!sure && Sided(skeleton, byShape) is var told and not 0)
        {
            // Where the shape does not tell left from right, names may.
            byShape = told > 0 ? byShape : byShape.ToDictionary(r => BodyRoles.Mirror(r.Key), r => r.Value);
            sure = true;
        }

        var named = BodyRoles.Required.Count(byName.ContainsKey);
        var roles = named >= 8 ? new Dictionary<BodyRole, int>(byName) : new Dictionary<BodyRole, int>(byShape);
        foreach (var (role, joint) in named >= 8 ? byShape : byName)
        {
            if (
                !roles.ContainsKey(role)
                && !roles.ContainsValue(joint)
                && (named >= 8 || BodyRoles.IsFinger(role))
                && Fits(skeleton, roles, role, joint)
            )
            {
                roles[role] = joint;
                doubts.Add($"{role} is taken from {(named >= 8 ? "the shape" : "its name")}: {skeleton[joint].Name}");
            }
        }

        var missing = BodyRoles.MissingFrom(roles.ContainsKey);
        return new RoleGuess(roles.ToDictionary(r => r.Key, r => skeleton[r.Value].Name), missing, doubts)
        {
            Asked =
            [
                .. BodyRoles
                    .Required.Select(r =>
                        Question(r, skeleton, roles, byName, byShape) ?? (sure || named >= 8 ? null : EitherSide(r, skeleton, roles))
                    )
                    .OfType<RoleQuestion>(),
            ],
        };
    }

    /// <summary>How many more joints have the side in their name that they were given than the other one; 0 where names tell no sides.</summary>
    private static int Sided(Skeleton s, Dictionary<BodyRole, int> roles) =>
        roles
            .Where(r => BodyRoles.Side(r.Key) != 'C')
            .Select(r => (Given: BodyRoles.Side(r.Key), Told: NameTokens.Read(s[r.Value].Name).Side))
            .Where(x => x.Told != 'C')
            .Sum(x => x.Given == x.Told ? 1 : -1);

    /// <summary>A body that nothing tells front from back: each joint may be the one of the other side.</summary>
    private static RoleQuestion? EitherSide(BodyRole role, Skeleton s, Dictionary<BodyRole, int> roles) =>
        BodyRoles.Side(role) != 'C' && roles.TryGetValue(role, out var own) && roles.TryGetValue(BodyRoles.Mirror(role), out var other)
            ? new RoleQuestion(role, [s[own].Name, s[other].Name])
            : null;

    /// <summary>
    /// Names and shape that agree need no person; nor do names alone where the shape says nothing, or means a joint of the same branch: helpers and
    /// fingers hang where limbs do.
    /// </summary>
    private static RoleQuestion? Question(
        BodyRole role,
        Skeleton s,
        Dictionary<BodyRole, int> roles,
        Dictionary<BodyRole, int> byName,
        Dictionary<BodyRole, int> byShape
    )
    {
        int[] said = [.. new[] { roles, byName, byShape }.Where(m => m.ContainsKey(role)).Select(m => m[role]).Distinct()];
        if (said.Length > 1 && byName.TryGetValue(role, out var named) && named == said[0])
        {
            said = [named, .. said.Skip(1).Where(j => !Above(s, j, named) && !Above(s, named, j))];
        }

        var guessed = said.Length == 1 && !byName.ContainsKey(role) && byName.Count > 0;
        return said.Length > 1 || guessed ? new RoleQuestion(role, [.. said.Select(j => s[j].Name)]) : null;
    }

    /// <summary>The skeleton with the given roles, or with found ones.</summary>
    /// <exception cref="RefusedException">A needed role is missing.</exception>
    public static Skeleton Assign(Skeleton skeleton, IReadOnlyDictionary<BodyRole, string>? roles, string what)
    {
        if (roles is null && skeleton.Joints.Any(j => j.Role is not null))
        {
            return skeleton;
        }

        var map = roles ?? Find(skeleton).Roles;
        var missing = BodyRoles.Required.Where(r => !map.ContainsKey(r)).Select(r => r.ToString()).ToList();
        if (!BodyRoles.Spine.Any(map.ContainsKey))
        {
            missing.Add("a spine role or Chest");
        }

        return missing.Count == 0
            ? skeleton.WithRoles(map)
            : throw new RefusedException($"{what}: no joint was found for {string.Join(", ", missing)}; give a role map");
    }

    private static bool Above(Skeleton s, int joint, int below)
    {
        for (var j = s.Parents[below]; j >= 0; j = s.Parents[j])
        {
            if (j == joint)
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>A filled-in joint must hang below the joint of the next known role towards the root.</summary>
    private static bool Fits(Skeleton s, Dictionary<BodyRole, int> roles, BodyRole role, int joint)
    {
        for (var up = BodyRoles.Parent(role); up is { } r; up = BodyRoles.Parent(r))
        {
            if (roles.TryGetValue(r, out var above))
            {
                return Above(s, above, joint);
            }
        }

        return true;
    }
}
