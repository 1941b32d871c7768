namespace Eidolon.Core.Characters;

/// <summary>The verdict on a rest pose with its reasons.</summary>
public sealed record RestReport(RestVerdict Verdict, IReadOnlyList<RestReason> Reasons, float Height, float ArmTilt);
