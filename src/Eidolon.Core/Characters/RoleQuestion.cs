using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters;

/// <summary>A role that cannot be told for sure: names and shape speak of different joints, or only one of them speaks.</summary>
/// <param name="Candidates">Names of the joints that may play it, the likeliest first.</param>
public sealed record RoleQuestion(BodyRole Role, IReadOnlyList<string> Candidates);
