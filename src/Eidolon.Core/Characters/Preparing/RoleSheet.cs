using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters.Preparing;

/// <summary>Which joint of a character plays which role, and who said so.</summary>
/// <param name="Roles">Role → joint name.</param>
/// <param name="ByHand">Roles that a person set, or left without a joint.</param>
/// <param name="Asked">Roles that were found, but not for sure, and that nobody has answered yet.</param>
/// <param name="Missing">Needed roles that no joint plays.</param>
public sealed record RoleSheet(
    IReadOnlyDictionary<BodyRole, string> Roles,
    IReadOnlySet<BodyRole> ByHand,
    IReadOnlyList<RoleQuestion> Asked,
    IReadOnlyList<BodyRole> Missing
)
{
    /// <summary>Every role that is needed is played.</summary>
    public bool Complete => Missing.Count == 0;

    /// <summary>Nothing tells left from right: one answer settles all.</summary>
    public bool SidesAsked =>
        BodyRoles
            .Required.Where(r => BodyRoles.Side(r) != 'C' && Roles.ContainsKey(r))
            .All(r => Asked.Any(q => q.Role == r && q.Candidates.Count == 2))
        && Asked.Count > 0;

    /// <summary>The role that a joint plays.</summary>
    public BodyRole? Of(string joint)
    {
        foreach (var (role, name) in Roles)
        {
            if (name == joint)
            {
                return role;
            }
        }

        return null;
    }

    /// <summary>What was found, and then what a person did, in order.</summary>
    /// <param name="skeleton">As it came; roles on it are not looked at.</param>
    /// <param name="known">Roles from a map that was kept; null where they are to be found.</param>
    /// <exception cref="RefusedException">A step names a joint that is not there.</exception>
    public static RoleSheet Of(Skeleton skeleton, IReadOnlyDictionary<BodyRole, string>? known, IEnumerable<DraftStep> steps)
    {
        var guess = known is null ? RoleFinder.Find(skeleton) : new RoleGuess(known, [], []);
        var roles = guess.Roles.ToDictionary(r => r.Key, r => r.Value);
        var byHand = new HashSet<BodyRole>();
        foreach (var step in steps)
        {
            switch (step)
            {
                case RoleStep { Joint: null } none:
                    roles.Remove(none.Role);
                    byHand.Add(none.Role);
                    break;
                case RoleStep { Joint: { } joint } one:
                    Set(skeleton, roles, one.Role, joint);
                    byHand.Add(one.Role);
                    break;
                case SidesStep sides:
                    roles = sides.Swapped ? roles.ToDictionary(r => BodyRoles.Mirror(r.Key), r => r.Value) : roles;
                    byHand.UnionWith(roles.Keys.Where(r => BodyRoles.Side(r) != 'C'));
                    break;
                case MirrorStep mirror:
                    foreach (var (role, joint) in RoleMirror.Of(skeleton, roles, mirror.From))
                    {
                        Set(skeleton, roles, role, joint);
                        byHand.Add(role);
                    }

                    break;
            }
        }

        return new RoleSheet(
            roles,
            byHand,
            [.. guess.Asked.Where(q => !byHand.Contains(q.Role))],
            BodyRoles.MissingFrom(roles.ContainsKey)
        );
    }

    private static void Set(Skeleton skeleton, Dictionary<BodyRole, string> roles, BodyRole role, string joint)
    {
        if (skeleton.IndexOf(joint) < 0)
        {
            throw new RefusedException($"the character has no joint '{joint}'");
        }

        foreach (var other in roles.Where(r => r.Value == joint).Select(r => r.Key).ToList())
        {
            roles.Remove(other);
        }

        roles[role] = joint;
    }
}
