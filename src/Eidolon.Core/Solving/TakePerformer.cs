namespace Eidolon.Core.Solving;

/// <summary>A measured performer in a take.</summary>
/// <param name="Subject">The performer's id.</param>
/// <param name="Prefix">What stands before the names of its markers; null when it is alone.</param>
public sealed record TakePerformer(int Subject, string? Prefix, Performer Body);
