using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters;

/// <summary>Finds which joint plays which role: by name where the names speak, by shape where they do not.</summary>
public static class RoleFinder
{
    /// <summary>Guesses which joint is which by names, sides and shape.</summary>
    public static RoleGuess Find(Skeleton skeleton)
    {
        var doubts = new List<string>();
        var byShape = RolesByShape.Find(skeleton);
        var byName = RolesByName.Find(skeleton);
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

        var missing = BodyRoles.Required.Where(r => !roles.ContainsKey(r)).ToList();
        if (!BodyRoles.Spine.Any(roles.ContainsKey))
        {
            missing.Add(BodyRole.Chest);
        }

        return new RoleGuess(roles.ToDictionary(r => r.Key, r => skeleton[r.Value].Name), missing, doubts);
    }

    /// <summary>The skeleton with the given roles, or with found ones.</summary>
    /// <exception cref="ArgumentException">A needed role is missing.</exception>
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
            : throw new ArgumentException($"{what}: no joint was found for {string.Join(", ", missing)}; give a role map");
    }

    /// <summary>A filled-in joint must hang below the joint of the next known role towards the root.</summary>
    private static bool Fits(Skeleton s, Dictionary<BodyRole, int> roles, BodyRole role, int joint)
    {
        for (var up = BodyRoles.Parent(role); up is { } r; up = BodyRoles.Parent(r))
        {
            if (roles.TryGetValue(r, out var above))
            {
                for (var j = s.Parents[joint]; j >= 0; j = s.Parents[j])
                {
                    if (j == above)
                    {
                        return true;
                    }
                }

                return false;
            }
        }

        return true;
    }
}
