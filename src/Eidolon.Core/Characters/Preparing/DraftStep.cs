using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters.Preparing;

/// <summary>One thing a person did to a character while preparing it.</summary>
public abstract record DraftStep;

/// <summary>A joint plays a role from now on, and no other.</summary>
/// <param name="Joint">Its name in the file; null where nothing plays the role.</param>
public sealed record RoleStep(BodyRole Role, string? Joint) : DraftStep;

/// <summary>The other side gets the roles of this one, on the joints that mirror its own.</summary>
/// <param name="From">'L' or 'R'.</param>
public sealed record MirrorStep(char From) : DraftStep;

/// <summary>Which side is which was said by a person, where nothing about the rig tells it.</summary>
/// <param name="Swapped">The other way round than it was taken to be.</param>
public sealed record SidesStep(bool Swapped) : DraftStep;

/// <summary>A remedy of the rest check is taken.</summary>
/// <param name="And">Another that is taken with it, as both arms are.</param>
public sealed record RemedyStep(RestRemedy Remedy, RestRemedy? And = null) : DraftStep;

/// <summary>The whole character is so many times as large.</summary>
public sealed record SizeStep(double Factor) : DraftStep;
