namespace Eidolon.Core.Characters;

/// <summary>Does a rest pose suit retargeting.</summary>
public enum RestVerdict
{
    Ready,
    WillDrift,
    CannotFit,
}
