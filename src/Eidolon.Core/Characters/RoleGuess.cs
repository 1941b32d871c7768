using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters;

/// <summary>A found role map: role → joint name, what is missing, and what was not sure.</summary>
public sealed record RoleGuess(IReadOnlyDictionary<BodyRole, string> Roles, IReadOnlyList<BodyRole> Missing, IReadOnlyList<string> Doubts)
{
    /// <summary>Roles that a person should look at: found, but not for sure.</summary>
    public IReadOnlyList<RoleQuestion> Asked { get; init; } = [];

    /// <summary>Every role that is needed was found.</summary>
    public bool Complete => Missing.Count == 0;
}
